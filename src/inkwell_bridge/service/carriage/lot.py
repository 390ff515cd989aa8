"""Running the steps of many documents side by side.

Each document's steps are one generator (``effects.py``). A round takes every document as far as it goes without a call
to an end, doing together what several of them ask of the database; then all their calls go out at the same time, with
no database session kept over them. One that fails fails alone: where something that was done together goes wrong, it is
done again for each by itself.
"""

from __future__ import annotations

import time
from collections import defaultdict
from collections.abc import Callable, Hashable, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor, wait
from dataclasses import dataclass
from functools import cache, partial
from typing import Any, TypeVar

from django.db import InterfaceError, OperationalError

from inkwell_bridge.ends.errors import EndError, Misstated, Refused
from inkwell_bridge.service.carriage.effects import Ask, Call, Effect, Effects, Lock, Save, Unlock
from inkwell_bridge.service.locks import POLL_SECONDS, Claims
from inkwell_bridge.service.rows import write_rows
from inkwell_bridge.service.sessions import give_session_back

# As many calls as a worker has documents in flight (``work --concurrency``), so that none ever waits for a thread: an
# intent that was written says when its call went out.
MOST_CALLS = 128
# The most that an end is asked about in one call; longer questions are put in parts, at the same time.
MOST_ASKED = 50

Key = TypeVar("Key", bound=Hashable)
Done = TypeVar("Done")
# What became of something: its value, or the exception that it ended with.
Outcome = Any


def run_lot(works: Mapping[Key, Effects[Done]], claims: Claims) -> dict[Key, Done | Exception]:
    """Run these side by side to their ends; answers what each answered, or the exception that it ended with.

    Expects no transaction. Locks that they take are among ``claims`` until they are done.

    Raises:
        ClaimLost: a lock is not ours any more; nothing else went out after that.
        OperationalError, InterfaceError: the database went away. All goes on from what is written down.
    """
    return _Lot(works, claims).run()


def run_alone(work: Effects[Done]) -> Done:
    """Run one by itself.

    Raises:
        Exception: as it ended.
    """
    with Claims() as claims:
        outcome = run_lot({0: work}, claims)[0]
    if isinstance(outcome, Exception):
        raise outcome
    return outcome


@dataclass(slots=True)
class _Waiting:
    """A lock that somebody else holds, and until when it is waited for."""

    lock: Lock
    until: float


class _Lot:
    def __init__(self, works: Mapping[Any, Effects[Any]], claims: Claims) -> None:
        self._works, self._claims = dict(works), claims
        self._locks: dict[Any, list[tuple[str, ...]]] = defaultdict(list)
        self._waiting: dict[Any, _Waiting] = {}
        self._done: dict[Any, Any] = {}

    def run(self) -> dict[Any, Any]:
        outcomes: dict[Any, Outcome] = dict.fromkeys(self._works)
        asked: dict[Any, Effect] = {}
        while outcomes or asked or self._waiting:
            asked |= self._resume(outcomes)
            here = {key: effect for key, effect in asked.items() if not _goes_out(effect)}
            outcomes = self._here(here) if here else {}
            for key in here:
                del asked[key]
            outcomes |= self._wait_over()
            if outcomes:
                # Those go on first, so that their calls go out with the others'.
                continue
            if asked:
                outcomes, asked = self._go_out(asked), {}
            elif self._waiting:
                give_session_back()
                time.sleep(POLL_SECONDS)
        return self._done

    def _resume(self, outcomes: Mapping[Any, Outcome]) -> dict[Any, Effect]:
        """Hand each its outcome; answers what each asks for next. Those that have ended are done."""
        asked = {}
        for key, outcome in outcomes.items():
            work = self._works[key]
            try:
                asked[key] = work.throw(outcome) if isinstance(outcome, Exception) else work.send(outcome)
                continue
            except StopIteration as end:
                self._done[key] = end.value
            except (OperationalError, InterfaceError):
                raise
            except Exception as error:
                self._done[key] = error
            # However it ended: nobody else may wait for a lock of one that is done.
            self._claims.give_back(self._locks.pop(key, ()))
        return asked

    def _here(self, asked: Mapping[Any, Effect]) -> dict[Any, Outcome]:
        """What needs the database alone: rows, locks, questions; one statement or so for all of a sort."""
        outcomes: dict[Any, Outcome] = {}
        saves = {key: effect for key, effect in asked.items() if isinstance(effect, Save)}
        outcomes |= _together(saves, lambda effect: effect.fields, _write_all)
        asks = {key: effect for key, effect in asked.items() if isinstance(effect, Ask)}
        outcomes |= _together(asks, lambda effect: (effect.question, effect.to), _put)
        for key, effect in asked.items():
            if isinstance(effect, Unlock):
                self._claims.give_back([effect.names])
                self._locks[key].remove(effect.names)
                outcomes[key] = None
            elif isinstance(effect, Lock):
                self._waiting[key] = _Waiting(effect, time.monotonic() + effect.wait_seconds)
        return outcomes

    def _wait_over(self) -> dict[Any, Outcome]:
        """Whose locks came free, or have been waited for long enough."""
        if not self._waiting:
            return {}
        outcomes: dict[Any, Outcome] = {}
        keys = list(self._waiting)
        taken = self._claims.take([self._waiting[key].lock.names for key in keys])
        for key, free in zip(keys, taken, strict=True):
            if free:
                self._locks[key].append(self._waiting[key].lock.names)
            if free or time.monotonic() > self._waiting[key].until:
                outcomes[key] = free
                del self._waiting[key]
        return outcomes

    def _go_out(self, asked: Mapping[Any, Effect]) -> dict[Any, Outcome]:
        """Make all calls at the same time, and wait for all answers; no session is kept meanwhile."""
        self._claims.verify()
        give_session_back()
        # Calls about one document each, and questions about many: all go out before any answer is waited for.
        futures: dict[Any, Future[Any]] = {}
        parts: list[tuple[list[Any], Future[Any]]] = []
        questions: dict[Any, list[Any]] = defaultdict(list)
        for key, effect in asked.items():
            if isinstance(effect, Ask):
                questions[effect.question, effect.to].append(key)
            elif isinstance(effect, Call):
                futures[key] = _threads().submit(_call, effect.work)
        for (question, to), keys in questions.items():
            for start in range(0, len(keys), MOST_ASKED):
                part = keys[start : start + MOST_ASKED]
                abouts = [asked[key].about for key in part]  # type: ignore[union-attr]
                parts.append((part, _threads().submit(_call, partial(question, to, abouts))))
        # All of them, whatever one says: nothing of ours may still be under way when the locks are given back.
        wait([*futures.values(), *(future for _, future in parts)])
        outcomes = {key: _outcome(future) for key, future in futures.items()}
        for part, future in parts:
            answers = _outcome(future)
            if _one_may_be_to_blame(answers, part):
                again = {key: Call(partial(_ask_one, asked[key])) for key in part}
                outcomes |= self._go_out(again)
            else:
                outcomes |= _spread(part, answers)
        return outcomes


def _goes_out(effect: Effect) -> bool:
    return isinstance(effect, Call) or (isinstance(effect, Ask) and effect.calls_end)


def _together(
    asked: Mapping[Any, Any], alike: Callable[[Any], Hashable], do: Callable[[Sequence[Any]], Sequence[Outcome]]
) -> dict[Any, Outcome]:
    """Do those that are alike together; where that fails, each by itself, so that one alone has the failure."""
    groups: dict[Hashable, list[Any]] = defaultdict(list)
    for key, effect in asked.items():
        groups[alike(effect)].append(key)
    outcomes: dict[Any, Outcome] = {}
    for keys in groups.values():
        done = _attempt(do, [asked[key] for key in keys])
        if _one_may_be_to_blame(done, keys):
            for key in keys:
                outcomes |= _spread([key], _attempt(do, [asked[key]]))
        else:
            outcomes |= _spread(keys, done)
    return outcomes


def _one_may_be_to_blame(answers: Outcome, keys: Sequence[Any]) -> bool:
    """Whether each should be tried by itself: one record that cannot be read must not stop those beside it.

    An end that does not answer at all would not answer each of them either.
    """
    if not isinstance(answers, Exception) or len(keys) == 1:
        return False
    return isinstance(answers, Misstated | Refused) or not isinstance(answers, EndError)


def _ask_one(effect: Ask) -> Any:
    (answer,) = effect.question(effect.to, [effect.about])
    if isinstance(answer, Exception):
        raise answer
    return answer


def _attempt(do: Callable[[Sequence[Any]], Sequence[Outcome]], effects: Sequence[Any]) -> Outcome:
    try:
        return do(effects)
    except (OperationalError, InterfaceError):
        # It went away under all of them.
        raise
    except Exception as error:
        return error


def _spread(keys: Sequence[Any], answers: Outcome) -> dict[Any, Outcome]:
    """To each its own answer; an exception is the answer to all."""
    if isinstance(answers, Exception):
        return dict.fromkeys(keys, answers)
    return dict(zip(keys, answers, strict=True))


def _write_all(effects: Sequence[Save]) -> Sequence[None]:
    write_rows([row for effect in effects for row in effect.rows], effects[0].fields)
    return [None] * len(effects)


def _put(effects: Sequence[Ask]) -> Sequence[Any]:
    return effects[0].question(effects[0].to, [effect.about for effect in effects])


def _call(work: Callable[[], Any]) -> Any:
    try:
        return work()
    finally:
        # Who was heard and at what pace is kept in the database, by a session that others need as well.
        give_session_back()


def _outcome(future: Future[Any]) -> Outcome:
    try:
        return future.result()
    except (OperationalError, InterfaceError):
        raise
    except Exception as error:
        return error


@cache
def _threads() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(MOST_CALLS, thread_name_prefix="call")
