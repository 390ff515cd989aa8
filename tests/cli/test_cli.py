"""The command line, run as a person runs it: a process, its output, its exit status."""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import pty
import re
import signal
import socket
import struct
import subprocess
import sys
import termios
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import click
import pytest
from click.testing import CliRunner

from inkwell_bridge.cli.main import main
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.demo.month import customers
from inkwell_bridge.demo.odd_ones import odd_orders
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.service.test_links import product
from tests.support.world import BRIDGE, OWNER, PASSWORD, World, new_world, shop_order, wait_for

INKWELL = str(Path(sys.executable).parent / "inkwell")
Inkwell = Callable[..., subprocess.CompletedProcess[str]]


def environment(profile: Path, **more: str) -> dict[str, str]:
    """What the command sees of its surroundings."""
    return {"PATH": os.environ["PATH"], "HOME": str(profile.parent), "INKWELL_PROFILE": str(profile), **more}


def command(profile: Path) -> Inkwell:
    """The installed command under a profile of its own."""

    def call(*arguments: str, given: str = "", **more: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [INKWELL, *arguments],
            input=given,
            text=True,
            capture_output=True,
            env=environment(profile, **more),
            check=False,
        )

    return call


def working_for(world: World, folder: Path) -> Inkwell:
    """The command, signed in and working for a world."""
    call = command(folder / "profile.json")
    return lambda *arguments, **more: call(
        *arguments,
        INKWELL_ADDRESS=world.stack.address,
        INKWELL_TOKEN=world.token,
        **{"INKWELL_WORKSPACE": world.slug, **more},
    )


@pytest.fixture
def carried(october: World) -> World:
    """A world whose October was carried."""
    return october


@pytest.fixture
def inkwell(carried: World, tmp_path: Path) -> Inkwell:
    """The command, signed in and working for the carried world."""
    return working_for(carried, tmp_path)


def test_signing_in_is_remembered_for_its_owner_alone(stack: Stack, carried: World, tmp_path: Path) -> None:
    """Then a workspace is chosen, and commands work without more words."""
    call = command(tmp_path / "profile.json")
    done = call("sign-in", "--address", stack.address, "--email", OWNER, INKWELL_PASSWORD=PASSWORD)
    assert (done.returncode, done.stdout) == (0, "")
    assert f"Signed in at {stack.address}." in done.stderr
    assert oct((tmp_path / "profile.json").stat().st_mode)[-3:] == "600"
    assert call("use", carried.slug).returncode == 0
    assert json.loads(call("bridges", "list", "--json").stdout)[0]["slug"] == BRIDGE


def test_without_signing_in_it_says_how(tmp_path: Path) -> None:
    """Status 3, and the command to use."""
    done = command(tmp_path / "none.json")("workspaces")
    assert done.returncode == 3
    assert "Use: inkwell sign-in" in done.stderr


@pytest.mark.parametrize(
    ("arguments", "status", "said"),
    [
        (("sign-in", "--address", "http://127.0.0.1:9", "--email", "a@b.example"), 7, "did not answer"),
        (("connections", "check", "web-shp"), 4, "There is no connection 'web-shp' here. Did you mean 'web-shop'?"),
        (("documents", "show", "MW-0"), 4, "No document with the number MW-0."),
        (("documents", "show", "MW-1000"), 4, "Close: MW-1000"),
        (
            ("bridges", "timetable", BRIDGE, "--off", "--every", "5"),
            2,
            "Give one of WORDS, --every, --daily, --rule and --off",
        ),
        (("bridges", "timetable", BRIDGE, "--every", "soon"), 2, "expected minutes such as 15m"),
        (("bridges", "timetable", BRIDGE, "--daily", "25:00"), 5, "daily_at"),
        (("holds", "release"), 2, "Give either --cause or --order."),
        (("-w", "nobody", "runs", "list"), 4, "There is no workspace 'nobody'"),
        (("runs", "show", "99999999"), 4, "There is no run 99999999 here. The newest is "),
        (("rulebooks", "show", BRIDGE, "99"), 4, "There is no version 99 here. The newest is 1."),
        (("run", "web-shop-to-uk"), 4, "Did you mean 'web-shop-to-uk-books'?"),
    ],
)
def test_errors_say_what_and_end_with_their_status(inkwell: Inkwell, arguments: tuple[str, ...], status: int,
                                                   said: str) -> None:  # fmt: skip
    """Text to standard error, nothing to standard output."""
    done = inkwell(*arguments, INKWELL_PASSWORD="x")
    assert (done.returncode, done.stdout) == (status, "")
    assert said in done.stderr


@pytest.mark.parametrize("wrong", [("runs", "show", "seven"), ("bridges", "list", "--sideways"), ("bridges", "show")])
def test_a_command_that_was_not_used_rightly_is_a_problem_too(inkwell: Inkwell, wrong: tuple[str, ...]) -> None:
    """What click itself refuses, before a command of ours is reached."""
    done = inkwell(*wrong, "--json")
    said = json.loads(done.stdout)
    assert (done.returncode, said["title"], bool(said["detail"])) == (2, "The command was not used rightly", True)
    assert inkwell(*wrong).stdout == ""


def interruptible(*arguments: str, env: dict[str, str]) -> subprocess.Popen[str]:
    """A command that hears Ctrl-C, even where these tests run in the background of a shell, which do not."""
    return subprocess.Popen(
        [INKWELL, *arguments], env=env, text=True, stdout=subprocess.PIPE, stderr=subprocess.PIPE,
        start_new_session=True, preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),
    )  # fmt: skip


def test_ctrl_c_ends_the_waiting_and_not_the_run(carried: World, inkwell: Inkwell, tmp_path: Path) -> None:
    """It says how to follow the run again, and ends with the status of an interrupt."""
    world = new_world(carried.stack, carried.token)
    world.misbehave("web-shop", {"call": "orders", "kind": "latency", "seconds": 1.2, "times": 6})
    given = {**environment(tmp_path / "profile.json"), "INKWELL_ADDRESS": world.stack.address,
             "INKWELL_TOKEN": world.token, "INKWELL_WORKSPACE": world.slug}  # fmt: skip
    command = interruptible("run", BRIDGE, env=given)
    (run,) = wait_for(lambda: list(world.calls.runs()) or None, seconds=20, what="the run")
    # The run is there before the command has its answer, and begins to follow it.
    time.sleep(1)
    command.send_signal(signal.SIGINT)
    _, said = command.communicate(timeout=20)
    assert command.returncode == 130
    assert f"Run {run.id} goes on. Follow it with: inkwell runs show {run.id}" in said
    assert world.ended(run).state == "ended"


def test_ctrl_c_during_a_call_claims_nothing(tmp_path: Path) -> None:
    """Whether the service did what it was asked for is not known here."""
    with socket.create_server(("127.0.0.1", 0)) as silent:
        given = {**environment(tmp_path / "profile.json"), "INKWELL_TOKEN": "ibt_any", "INKWELL_WORKSPACE": "any",
                 "INKWELL_ADDRESS": f"http://127.0.0.1:{silent.getsockname()[1]}"}  # fmt: skip
        command = interruptible("run", BRIDGE, env=given)
        asking, _ = silent.accept()
        with asking:
            asking.recv(1)
            command.send_signal(signal.SIGINT)
            _, said = command.communicate(timeout=20)
    assert command.returncode == 130
    assert "See what was done before you do it again." in said


def test_errors_are_problems_for_programs(inkwell: Inkwell, tmp_path: Path) -> None:
    """As RFC 9457 has them: from the service as it answered, from here in the same form."""
    for arguments, status in (
        (("try", "web-shop-to-uk-books", "MW-77777"), 4),
        (("bridges", "show", "nowhere"), 4),
    ):
        done = inkwell(*arguments, "--json")
        problem = json.loads(done.stdout)
        assert (done.returncode, problem["status"], bool(problem["title"]), bool(problem["detail"])) == (
            status,
            404,
            True,
            True,
        )
    nobody = command(tmp_path / "nobody.json")("bridges", "list", "--json")
    assert (nobody.returncode, json.loads(nobody.stdout)["title"]) == (3, "Not signed in")


def test_connections_are_listed_and_checked(inkwell: Inkwell) -> None:
    """A table for people, with each right."""
    assert re.search(r"uk-books +Marrowby UK books +books +erp +connected", inkwell("connections", "list").stdout)
    checked = inkwell("connections", "check", "uk-books").stdout
    assert checked.startswith("Marrowby UK books: connected\n  Marrowby UK books, GBP, Europe/London\n")
    assert "yes  post invoices" in checked


def test_a_connection_is_added_without_its_secrets_on_the_command_line(inkwell: Inkwell, carried: World) -> None:
    """They come by standard input; what is refused ends with status 1 on a check."""
    done = inkwell(
        "connections", "add", "second", "--name", "Second", "--kind", "web-shop", "--address",
        f"{carried.stack.shop}/{carried.slug}/api", "--credential", "key", "--credential", "secret",
        given="mwshop_demo_key\nwrong\n",
    )  # fmt: skip
    assert (done.returncode, done.stdout.splitlines()[0]) == (0, "Second: refused")
    assert inkwell("connections", "check", "second").returncode == 1


def test_a_broken_rulebook_names_file_and_line(inkwell: Inkwell, tmp_path: Path) -> None:
    """Status 5, and every error at once."""
    file = tmp_path / "uk.yaml"
    file.write_text(rulebook_text().replace("arrive: posted", "arive: posted").replace("0.05", "much"))
    done = inkwell("rulebooks", "write", BRIDGE, str(file))
    assert done.returncode == 5
    assert "uk.yaml, line 7: the key 'arive' is not known here Did you mean 'arrive'?" in done.stderr
    assert re.search(r"uk.yaml, line \d+: /penny/allowance: expected a number, got 'much'", done.stderr)


def test_a_rulebook_is_written_published_listed_and_shown(inkwell: Inkwell, tmp_path: Path) -> None:
    """What comes back is what was written."""
    file = tmp_path / "uk.yaml"
    file.write_text(rulebook_text() + "# looked over\n")
    done = inkwell("rulebooks", "write", BRIDGE, str(file), "--publish")
    number = re.search(r"Version (\d+) is in force", done.stderr)
    assert number
    assert inkwell("rulebooks", "show", BRIDGE, number[1]).stdout == file.read_text()
    assert OWNER in inkwell("rulebooks", "list", BRIDGE).stdout


def test_rules_build_on_a_base_and_are_compared(inkwell: Inkwell, tmp_path: Path) -> None:
    """The base is written, a bridge's rules build on it, and a version tells what it does otherwise."""
    base, own = tmp_path / "uk.yaml", tmp_path / "own.yaml"
    base.write_text(rulebook_text(BRIDGE), "utf-8")
    own.write_text("rulebook: 1\nbased_on: uk.yaml\norders: {due_after_days: 14}\n", "utf-8")
    assert inkwell("rulebooks", "base", "write", str(base)).stderr == "uk.yaml is at version 1.\n"
    assert inkwell("rulebooks", "write", BRIDGE, str(own)).returncode == 0
    number = json.loads(inkwell("rulebooks", "list", BRIDGE, "--json").stdout)[0]["number"]
    compared = inkwell("rulebooks", "compare", BRIDGE, str(number)).stdout
    assert "orders, due after days: now '14'; nothing was said before." in compared
    assert inkwell("rulebooks", "compare", BRIDGE, "1", "--since", "1").stdout == "There is no difference.\n"
    again = inkwell("rulebooks", "base", "write", str(base), "--redraft").stderr
    assert again == f"uk.yaml is at version 2.\n{BRIDGE}: version {number + 1} is a draft.\n"
    shown = inkwell("rulebooks", "base", "show", "uk.yaml")
    assert shown.stdout == rulebook_text(BRIDGE)
    assert "uk.yaml" in inkwell("rulebooks", "base", "list").stdout
    base.write_text("rulebook: 1\nordes: {}\n", "utf-8")
    broken = inkwell("rulebooks", "base", "write", str(base))
    assert (broken.returncode, "uk.yaml, line 2: the key 'ordes' is not known here" in broken.stderr) == (5, True)


def test_a_run_shows_counts_and_both_sides(stack: Stack, owner: str, tmp_path: Path) -> None:
    """Status 1, for two are held; the same in JSON."""
    world = new_world(stack, owner)
    call = command(tmp_path / "p.json")
    signed_in = {"INKWELL_ADDRESS": stack.address, "INKWELL_TOKEN": owner, "INKWELL_WORKSPACE": world.slug}
    done = call("run", BRIDGE, **signed_in)
    assert done.returncode == 1
    assert "60 read: 55 carried, 2 held, 3 left out" in done.stdout
    assert re.search(r"Difference +0 +-0.14 +0.14 +0.00", done.stdout)
    again = call("run", BRIDGE, "--json", **signed_in)
    assert (again.returncode, json.loads(again.stdout)["counts"]["carried"]) == (0, 0)


def test_both_sides_of_one_order_with_the_reasons(inkwell: Inkwell) -> None:
    """By the order's number or the invoice's."""
    shown = inkwell("documents", "show", "MW-10003").stdout
    assert re.search(r"Sock yarn skein, Fenland +1 +9.99 +1.67", shown)
    assert "The price of 9.99, less the tax of 1.67 inside it, is 8.32." in shown
    assert re.search(r"Rounding difference of tax +1 +8200 +OUT +0.01 +0.00", shown)
    assert "Net 11.62, tax 2.32, gross 13.94 GBP" in shown
    number = re.search(r"Invoice (SI-\d+): proved, rounding 0.01", shown)
    assert number
    assert inkwell("documents", "show", number[1]).stdout == shown


def test_documents_are_listed_by_the_companys_wall_clock(inkwell: Inkwell) -> None:
    """Filters narrow the list; JSON gives all of it."""
    held = inkwell("documents", "list", "--state", "held").stdout
    assert re.search(r"MW-10031 +2026-10-17 13:00 +37.44 +GBP +held +tax-class-unmapped", held)
    rows = json.loads(inkwell("documents", "list", "--limit", "0", "--json").stdout)
    assert len(rows) == 60
    assert inkwell("documents", "list", "--from", "2030-01-01").stdout.startswith("No documents fit.")


def test_a_contact_is_shown_and_chosen(inkwell: Inkwell, world: World) -> None:
    """Two with the e-mail of one buyer; by its code, and what became of the order."""
    order, email = shop_order("MW-10003"), "twins@crewel.example"
    order = {**order, "shopper": {**order["shopper"], "account": 99_999, "email": email}}
    world.put("erp", contacts=[{"code": code, "name": code, "email": email} for code in ("C-9", "C-10")])
    world.put_orders(order, reset=True)
    world.loaded("uk-books", "contacts")
    world.run()

    def call(*arguments: str) -> subprocess.CompletedProcess[str]:
        return inkwell("holds", *arguments, INKWELL_WORKSPACE=world.slug)

    shown = call("contact", "MW-10003")
    assert email in shown.stdout
    assert re.search(r"C-9 +C-9 .*same e-mail", shown.stdout)
    assert call("contact", "MW-10003", "C-77").returncode == 5
    assert re.search(r"MW-10003 .*carried", call("contact", "MW-10003", "C-9").stdout)
    assert call("contact", "MW-10003").returncode != 0
    assert "ARTICLE=ITEM" in call("preview", BRIDGE, "item-unclear", "--link", "SOCK").stderr
    unknown = call("preview", BRIDGE, "item-unclear", "--link", "SOCK=NONE")
    assert "none with the id or code 'NONE'" in unknown.stderr


def test_holds_are_listed_and_released(inkwell: Inkwell, carried: World) -> None:
    """By cause, with the money behind it; by order, one."""
    assert re.search(
        r"tax-class-unmapped +tax class reduced +orders +2 +71.37 GBP +MW-10031", inkwell("holds", "list").stdout
    )
    assert "1 released." in inkwell("holds", "release", "--order", "MW-10031").stderr
    carried.settled()
    again = inkwell("holds", "release", "--order", "MW-10031", "--no-wait", "--json")
    assert json.loads(again.stdout) == {"released": 1, "documents": []}
    carried.settled()


def test_the_month_ties(inkwell: Inkwell) -> None:
    """Every difference by name; what is held is open, so the status is 1."""
    done = inkwell("tie-out", "--from", "2026-10-01", "--to", "2026-10-31")
    assert done.returncode == 1
    assert re.search(r"left out: the rulebook’s orders › statuses +3 +78.78 +15.77 +94.55", done.stdout)
    assert re.search(r"unexplained +0 +0.00 +0.00 +0.00", done.stdout)
    assert inkwell("tie-out", "--from", "2020-01-01", "--to", "2020-01-31").stdout.endswith("in this period.\n")


def test_a_timetable_by_minutes_by_day_and_off(inkwell: Inkwell) -> None:
    """In words too; it says when it runs next, and without a time changes nothing."""
    daily = inkwell("bridges", "timetable", BRIDGE, "--daily", "18:30").stdout.splitlines()
    assert daily[:2] == [f"{BRIDGE} runs daily at 18:30 (Europe/London). Next, by the clocks of Europe/London:",
                         "  Sun 01 Nov 2026, 18:30"]  # fmt: skip
    words = "every 4 hours between 08:00 and 16:30 on weekdays; not on 3 November 2026"
    tried = inkwell("bridges", "timetable", BRIDGE, "--try", words).stdout.splitlines()
    assert tried[0].startswith(f"{BRIDGE} would run {words} (Europe/London). Next")
    assert tried[1:5] == ["  Mon 02 Nov 2026, 08:00", "  Mon 02 Nov 2026, 12:00", "  Mon 02 Nov 2026, 16:00",
                          "  Wed 04 Nov 2026, 08:00"]  # fmt: skip
    assert inkwell("bridges", "timetable", BRIDGE).stdout.startswith(f"{BRIDGE} runs daily at 18:30")
    wrong = inkwell("bridges", "timetable", BRIDGE, "now and then")
    assert (wrong.returncode, "“now and then” was not understood" in wrong.stderr) == (5, True)
    assert json.loads(inkwell("bridges", "timetable", BRIDGE, "--every", "90m", "--json").stdout)["rule"].endswith(
        "=90"
    )
    shown = inkwell("bridges", "timetable", BRIDGE).stdout.splitlines()
    assert shown[0] == f"{BRIDGE} runs every 90 minutes. Next, by the clocks of Europe/London:"
    assert len(shown) == 11
    assert inkwell("bridges", "timetable", BRIDGE, "--off").stderr == f"{BRIDGE} runs only when somebody starts it.\n"
    assert inkwell("bridges", "timetable", BRIDGE).stdout == f"{BRIDGE} runs only when somebody starts it.\n"
    assert inkwell("bridges", "timetable", BRIDGE, "--json").stdout == "null\n"


def test_a_lane_has_a_timetable_of_its_own(inkwell: Inkwell) -> None:
    """Shown beside the bridge's, by the clocks that it was given."""
    inkwell("bridges", "timetable", BRIDGE, "every 15 minutes")
    lane = inkwell("bridges", "timetable", BRIDGE, "--lane", "refunds", "--time-zone", "Europe/Berlin", "daily at 6am")
    assert lane.stdout.splitlines()[:2] == [
        f"The refunds lane of {BRIDGE} runs daily at 06:00 (Europe/Berlin). Next, by the clocks of Europe/Berlin:",
        "  Sun 01 Nov 2026, 06:00",
    ]
    assert inkwell("bridges", "timetable", BRIDGE).stdout.splitlines()[-1] == (
        "The refunds lane runs apart: daily at 06:00 (Europe/Berlin)."
    )
    gone = inkwell("bridges", "timetable", BRIDGE, "--lane", "refunds", "--off")
    assert gone.stderr == f"The refunds lane of {BRIDGE} runs whenever the bridge does.\n"
    assert inkwell("bridges", "timetable", BRIDGE, "--lane", "parcels", "every hour").returncode == 4
    inkwell("bridges", "timetable", BRIDGE, "--off")


def test_a_bridge_and_an_end_are_paused_and_go_on(inkwell: Inkwell) -> None:
    """A run says who paused it; lists show it."""
    assert "is paused" in inkwell("bridges", "pause", BRIDGE).stderr
    refused = inkwell("run", BRIDGE)
    assert (refused.returncode, "is paused since 2026-10-31" in refused.stderr) == (6, True)
    assert "paused" in inkwell("bridges", "list").stdout
    assert inkwell("bridges", "go-on", BRIDGE).stderr == f"{BRIDGE} goes on.\n"
    inkwell("connections", "pause", "uk-books")
    assert "connected, paused" in inkwell("connections", "list").stdout
    assert "UK books is paused" in inkwell("run", BRIDGE).stderr
    assert inkwell("connections", "go-on", "uk-books").stderr == "uk-books goes on.\n"


def test_a_run_of_some_days_and_a_run_once_more(inkwell: Inkwell, carried: World) -> None:
    """What stands is unchanged; what is held is tried again."""
    days = json.loads(inkwell("run", BRIDGE, "--from", "2026-10-05", "--to", "2026-10-06", "--json").stdout)
    assert (days["first_day"], days["last_day"], days["counts"]["carried"]) == ("2026-10-05", "2026-10-06", 0)
    assert days["counts"]["read"] == days["counts"]["unchanged"] > 0
    first = min(run.id for run in carried.calls.runs())
    again = inkwell("runs", "again", str(first))
    assert again.returncode == 1
    assert "2 read: 2 held" in again.stdout
    nothing = inkwell("runs", "again", str(days["id"]), "--outcome", "left out")
    assert (nothing.returncode, "nothing to run again" in nothing.stderr) == (6, True)


def commands(group: click.Group, *path: str) -> Iterator[tuple[str, ...]]:
    """Every command, by the words that lead to it."""
    for name, command in group.commands.items():
        if isinstance(command, click.Group) and name != "demo":
            yield from commands(command, *path, name)
        else:
            yield (*path, name)


@pytest.mark.parametrize("path", sorted(commands(main)), ids=" ".join)
def test_every_command_helps_with_words_and_an_example(path: tuple[str, ...]) -> None:
    """The example begins with the command itself."""
    shown = CliRunner().invoke(main, [*path, "--help"], prog_name="inkwell").output
    assert "Example" in shown
    assert f"inkwell {' '.join(path)}" in shown


def test_the_first_help_tells_the_exit_statuses() -> None:
    """As cli/exits.py and the reference do."""
    shown = subprocess.run([INKWELL, "--help"], text=True, capture_output=True, check=True).stdout
    assert "Exit status: 0 done" in shown
    assert "7 the service did not answer" in shown


def test_a_bridge_of_customers_from_its_lane_to_its_page(carried: World, inkwell: Inkwell) -> None:
    """Laid, switched on, run; a customer is shown as one; the lanes stand in the list."""
    world = new_world(carried.stack, carried.token)
    world.put("web-shop", customers=customers()[:3])
    demo_client.set_up_others(world.stack, world.calls, world=world.slug)
    here = {"INKWELL_WORKSPACE": world.slug}
    off = inkwell("bridges", "lane", "web-shop-to-contact-list", "customers", "off", **here)
    assert off.stderr + off.stdout == "The customers lane of web-shop-to-contact-list is off.\n"
    refused = inkwell("run", "web-shop-to-contact-list", **here)
    assert refused.returncode != 0
    assert "Every lane of Web shop customers to the contact list is off." in refused.stderr
    inkwell("bridges", "lane", "web-shop-to-contact-list", "customers", "on", **here)
    ran = inkwell("run", "web-shop-to-contact-list", **here)
    assert "3 read: 3 carried" in ran.stdout
    listed = inkwell("bridges", "list", **here).stdout
    assert re.search(r"web-shop-to-contact-list .* customers ", listed)
    shown = inkwell("documents", "show", "C-0001", **here).stdout
    assert shown.splitlines() == [
        "Customer C-0001: carried",
        "  Buyer        Aoife O'Driscoll, aoife.odriscoll@thimble.example",
        "  Changed      2026-10-02 08:00 Europe/London",
        "  Bridge       web-shop-to-contact-list",
        f"  Run          {next(iter(world.calls.runs())).id}",
        "  Rules        version 1",
    ]


def test_amounts_have_the_digits_of_their_currency(carried: World, inkwell: Inkwell) -> None:
    """Yen have no pence, dinars three digits: in the list, behind the holds, in the tie-out."""
    odd = {order["note"]: order for order in odd_orders()}
    world = new_world(carried.stack, carried.token)
    world.put_orders(odd["in JPY"], odd["in KWD"], odd["with a tip"], reset=True)
    world.run()
    here = {"INKWELL_WORKSPACE": world.slug}
    for arguments in (("documents", "list"), ("holds", "list"), ("tie-out",)):
        said = inkwell(*arguments, **here).stdout
        assert re.search(r"3,600\b(?!\.)", said), arguments
        assert "7.250" in said, arguments
    tip = inkwell("documents", "show", odd["with a tip"]["reference"], **here).stdout
    assert "Tip for the dyers" in tip
    assert "of 2.00 GBP, and the rulebook names no account for tips" in tip


def test_the_kinds_of_ends_are_listed(inkwell: Inkwell) -> None:
    """With what each can do, for programs."""
    assert "ledger" in inkwell("connections", "kinds").stdout
    kinds = {kind["name"]: kind for kind in json.loads(inkwell("connections", "kinds", "--json").stdout)}
    assert kinds["ledger"]["capabilities"]["most_dimensions"] == 3
    assert kinds["erp"]["credentials_schema"]["properties"]["password"]["writeOnly"] is True


def test_versions_are_published_and_shown(inkwell: Inkwell, tmp_path: Path) -> None:
    """A draft put in force by its number; without a number the one in force is shown."""
    file = tmp_path / "rules.yaml"
    file.write_text(inkwell("rulebooks", "show", BRIDGE).stdout + "# looked at again\n", "utf-8")
    draft = json.loads(inkwell("rulebooks", "write", BRIDGE, str(file), "--json").stdout)
    assert "looked at again" not in inkwell("rulebooks", "show", BRIDGE).stdout
    assert (
        f"Version {draft['number']} is in force."
        in inkwell("rulebooks", "publish", BRIDGE, str(draft["number"])).stderr
    )
    assert inkwell("rulebooks", "show", BRIDGE).stdout.endswith("# looked at again\n")


def test_bridges_are_shown_and_renamed(inkwell: Inkwell) -> None:
    """The name is for people; what the bridge is called in commands stays."""
    assert "Web shop to UK books" in inkwell("bridges", "show", BRIDGE).stdout
    assert "Shop to books" in inkwell("bridges", "change", BRIDGE, "--name", "Shop to books").stdout
    inkwell("bridges", "change", BRIDGE, "--name", "Web shop to UK books")


def test_workspaces_are_opened_and_listed(inkwell: Inkwell, carried: World) -> None:
    """For another client; the old way of listing still works."""
    name = f"{carried.slug}-two"
    assert f"Work for it with: inkwell use {name}" in inkwell("workspaces", "add", name, "--name", "Second").stderr
    for arguments in (("workspaces",), ("workspaces", "list")):
        assert name in inkwell(*arguments).stdout


def test_changes_of_links_are_listed(inkwell: Inkwell, carried: World) -> None:
    """What was answered, by whom, and what was taken back."""
    links = carried.calls.bridge(BRIDGE).links("products")
    carried.put("web-shop", products=[product(31, "NOWHERE-1", "Bowl")])
    carried.loaded("web-shop", "products")
    links.answer("31")
    assert "answered" in inkwell("links", "changes", BRIDGE, "products").stdout
    links.undo()
    (newest, *_) = json.loads(inkwell("links", "changes", BRIDGE, "products", "--json").stdout)
    assert newest["what"] != "answered"


@pytest.mark.parametrize(("arguments", "said"), [
    (("documents", "list", "--bridge", "web-shop-to-uk-boks"), "Did you mean 'web-shop-to-uk-books'?"),
    (("documents", "list", "--cause", "penny"), "penny is not one of the available choices"),
    (("tie-out", "--bridge", "nowhere"), "There is no bridge 'nowhere' here."),
    (("holds", "release", "--cause", "penny"), "penny is not one of the available choices"),
])  # fmt: skip
def test_unknown_names_in_filters_are_refused(inkwell: Inkwell, arguments: tuple[str, ...], said: str) -> None:
    """An empty list would say that all is well."""
    done = inkwell(*arguments)
    assert (done.returncode, said in done.stderr) == (5, True), done.stderr


def test_a_release_says_what_became_of_each(stack: Stack, owner: str, tmp_path: Path) -> None:
    """Held again without its cure, with status 1; carried with it, with status 0."""
    world = new_world(stack, owner)
    world.put_orders(shop_order("MW-10003"), reset=True)
    world.change_books(locked_until="2026-10-31")
    world.run()
    call = command(tmp_path / "profile.json")
    signed = {"INKWELL_ADDRESS": world.stack.address, "INKWELL_TOKEN": world.token, "INKWELL_WORKSPACE": world.slug}
    again = call("holds", "release", "--cause", "period-locked", **signed)
    assert (again.returncode, "held" in again.stdout) == (1, True)
    world.change_books(locked_until=None)
    done = call("holds", "release", "--order", "MW-10003", "--bridge", BRIDGE, **signed)
    assert (done.returncode, "carried" in done.stdout, "1 released." in done.stderr) == (0, True, True)


def on_a_terminal(columns: int, arguments: tuple[str, ...], environment: dict[str, str]) -> str:
    """What a command writes to a terminal of so many columns."""
    ours, theirs = pty.openpty()
    fcntl.ioctl(theirs, termios.TIOCSWINSZ, struct.pack("HHHH", 40, columns, 0, 0))
    with subprocess.Popen(
        [INKWELL, *arguments], stdin=theirs, stdout=theirs, stderr=subprocess.DEVNULL, env=environment
    ) as process:
        os.close(theirs)
        said = b""
        # A terminal whose other end is closed answers with an error in place of an end.
        with contextlib.suppress(OSError):
            while part := os.read(ours, 65536):
                said += part
        os.close(ours)
        assert process.wait() == 0
    return re.sub(r"\x1b\[[0-9;]*m", "", said.decode())


@pytest.mark.parametrize("columns", [40, 80, 200])
def test_nothing_is_cut_on_any_terminal(carried: World, tmp_path: Path, columns: int) -> None:
    """Numbers, states and references whole: folded where there is room for that, else one below the other."""
    more = {"INKWELL_ADDRESS": carried.stack.address, "INKWELL_TOKEN": carried.token, "TERM": "xterm-256color",
            "INKWELL_WORKSPACE": carried.slug}  # fmt: skip
    arguments = ("documents", "list", "--search", "MW-1000", "--limit", "5")
    said = on_a_terminal(columns, arguments, environment(tmp_path / "profile.json", **more))
    assert "…" not in said
    assert max(map(len, said.splitlines())) <= columns
    found = [one for _, one in zip(range(5), carried.calls.crossings(search="MW-1000"), strict=False)]
    for one in found:
        assert one.number in said
        assert f"{one.gross:,}" in said
        assert one.state in said
