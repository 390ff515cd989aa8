"""What all commands share: the service they speak to, and how an error ends them."""

from __future__ import annotations

import sys
from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

import click

from inkwell_bridge.cli import exits, output
from inkwell_bridge.client import ApiError, Client, NotConfirmed, WorkspaceCalls, profile

Answered = TypeVar("Answered")


class Failure(click.ClickException):
    """A call failed: what happened, each place that is wrong, and what to do."""

    def __init__(self, error: ApiError) -> None:
        problem = error.problem
        lines = [problem.detail or problem.title]
        lines += [
            f"  {item.detail}{f' {item.hint}' if item.hint else ''}"
            for item in problem.errors
            if item.detail != problem.detail or item.hint
        ]
        lines += [problem.hint] if problem.hint else []
        super().__init__("\n".join(lines))
        self.problem = problem
        self.exit_code = exits.status_of(error)  # type: ignore[misc]


class NotSignedIn(click.ClickException):
    """Nobody has signed in here."""

    exit_code = exits.NOT_SIGNED_IN


class NoSuchThing(click.ClickException):
    """What was named is not there, or is not one thing."""

    exit_code = exits.NO_SUCH_THING


class Service:
    """The service as the profile names it."""

    def __init__(self, workspace: str | None) -> None:
        self.profile = profile.load()
        self._workspace = workspace or self.profile.workspace

    def client(self) -> Client:
        """A client under the profile's token."""
        if not self.profile.token:
            raise NotSignedIn("Not signed in. Use: inkwell sign-in --address ADDRESS --email EMAIL")
        client = Client(self.profile.address, token=self.profile.token)
        click.get_current_context().call_on_close(lambda: _warn_of_end(client))
        return client

    def workspace(self) -> WorkspaceCalls:
        """Calls in the workspace that was asked for."""
        client = self.client()
        if not self._workspace:
            raise click.UsageError("No workspace named. Use --workspace NAME, or inkwell use NAME.")
        return client.workspace(self._workspace)


def _warn_of_end(client: Client) -> None:
    if client.token_ends_at is not None:
        output.say(
            f"Your token ends on {output.shown(client.token_ends_at)} UTC. Make another before with: inkwell sign-in"
        )


def code_option(command: Callable[..., Any]) -> Callable[..., Any]:
    """``--code``: what an authenticator app shows."""
    help_text = "What your authenticator app shows, or a recovery code; asked for where it is needed and not given."
    return click.option("--code", default="", help=help_text)(command)


def with_code(call: Callable[[str], Answered], code: str) -> Answered:
    """Make a call that may take the code of the second factor, and ask for it where it does and somebody is there."""
    try:
        return call(code)
    except ApiError as refused:
        if refused.problem.code != "code-needed" or not sys.stdin.isatty():
            raise
    return call(click.prompt("Code of your authenticator app", err=True))


def failing_well(command: Callable[..., Any]) -> Callable[..., Any]:
    """End a command on an error of the client with its text and status."""

    @wraps(command)
    def wrapped(*args: Any, **kwargs: Any) -> Any:
        try:
            return command(*args, **kwargs)
        except ApiError as error:
            raise Failure(error) from error

    return wrapped


def yes_option(command: Callable[..., Any]) -> Callable[..., Any]:
    """``--yes``: what ends by the command is meant, and nobody is asked."""
    return click.option("--yes", is_flag=True, help="Do not ask: what ends by this is meant.")(command)


def confirmed(act: Callable[[bool], Any], *, yes: bool) -> Any:
    """Do what ends something: at once with ``yes``, else once somebody at a terminal has agreed to what ends.

    ``act`` is called with whether it is confirmed.

    Raises:
        NotConfirmed: nobody is there to be asked, or they said no.
    """
    if yes:
        return act(True)
    try:
        return act(False)
    except NotConfirmed as refused:
        if not sys.stdin.isatty():
            refused.problem.hint = "Give --yes, if this is meant."
            raise
        output.say("\n".join([refused.what, *(f"  {text}" for text in refused.ends)]))
        if not click.confirm("Is this meant?", err=True):
            raise click.Abort from refused
    return act(True)


def json_option(command: Callable[..., Any]) -> Callable[..., Any]:
    """``--json``: the answer in JSON, and an error as Problem Details (RFC 9457), both on standard output."""

    @wraps(command)
    def wrapped(*args: Any, **kwargs: Any) -> Any:
        try:
            return command(*args, **kwargs)
        except click.ClickException as error:
            if not kwargs.get("as_json"):
                raise
            # On standard output, where a program reads its answer; the status tells the one from the other.
            output.as_json(problem(error))
            raise click.exceptions.Exit(error.exit_code) from error

    return click.option("--json", "as_json", is_flag=True, help="Answer in JSON, for programs.")(wrapped)


def problem(error: click.ClickException) -> dict[str, Any]:
    """What the service answered, or the same of what went wrong here."""
    if isinstance(error, Failure):
        return error.problem.model_dump(mode="json")
    title = exits.MEANINGS.get(error.exit_code, "Error")
    return {"type": "about:blank", "title": title, "detail": error.format_message()}


pass_service = click.make_pass_decorator(Service)
