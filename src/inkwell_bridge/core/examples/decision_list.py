"""Decision lists learnt from examples: the fewest clauses of a fixed form that answer as the examples do.

A decision list is asked from its first clause to its last, and the first that fits answers; where none does, the
default. It is the form that the rulebook's tables have: accounts by product before product type before customer, and
so on. (Rivest, *Learning Decision Lists*, Machine Learning 2, 1987.)

What is made least is ``2 x the examples answered otherwise + (2 x least - 1) for each clause``: a clause is worth it
where it answers ``least`` examples more. Every choice of up to five tables is tried that could come to less than the
best so far. Within a choice the clause that gains the most is added first, again and again; then each table is made the
best one beside the others, until none can be bettered. The same examples give the same list: nothing is drawn by lot,
and nothing is estimated. Whether a list is the least is proved afterwards, by a bound from below (``bound``).
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import combinations, islice
from typing import NamedTuple

from inkwell_bridge.core.examples.bound import Cell, Key, least_cost

_MOST_TABLES = 5
_MOST_ROUNDS = 20
_MOST_CLAUSES = 200
_MOST_DEFAULTS = 4
# Beyond these an order of a thousand lines, or a hostile one, would keep whoever learns for hours: what was found until
# then is used. Counted, and not timed, so that the same examples give the same list on every machine.
MOST_OBSERVATIONS = 30_000
MOST_STEPS = 40_000_000
LONGEST_VALUE = 120
# Clauses of a cost come before each other by what they hang on; that never outweighs an example.
_UNIT = 1_000


class Observation(NamedTuple):
    """What one example says: the ``facts`` that were there, by name, and the ``answer`` that was given."""

    example: int
    facts: Mapping[str, str]
    answer: str


class Clause(NamedTuple):
    """An answer where all ``conditions`` (fact, value) hold; of the default there are none.

    ``supported`` counts the examples that it answers rightly, ``contradicted`` those that it answers otherwise.
    """

    conditions: tuple[tuple[str, str], ...]
    answer: str
    supported: int
    contradicted: int


class Form(NamedTuple):
    """The form of the lists that are looked for.

    Shape: ``tables`` are the combinations of facts that clauses may hang on, in the order in which they are asked. Of
    ``last`` every value that was met has a clause, for nothing else would answer; without it there is a default.
    """

    tables: tuple[Key, ...]
    last: str = ""


class DecisionList(NamedTuple):
    """A list that was learnt, its clauses in the order in which they are asked.

    ``exceptions`` are the examples of which any observation is answered otherwise; ``proved`` tells that no list of the
    form explains more of them for its clauses.
    """

    clauses: tuple[Clause, ...] = ()
    default: Clause | None = None
    exceptions: tuple[int, ...] = ()
    proved: bool = True


class _Group(NamedTuple):
    """Observations with the same facts and answer; ``keys`` are what each table would ask of them, None where it would
    ask nothing."""

    keys: tuple[Key | None, ...]
    answer: str
    examples: frozenset[int]


class _Table(NamedTuple):
    """One table of a list: its ``place`` in the form, what one clause costs, and what its clauses answer."""

    place: int
    price: int
    answers: dict[Key, str]


def learn(observations: Iterable[Observation], form: Form, *, least: int = 2) -> DecisionList:
    """The list that explains the most observations with the fewest clauses."""
    names = (*form.tables, (form.last,) if form.last else Key())
    groups = _grouped(islice(observations, MOST_OBSERVATIONS), names, form.last, least)
    steps = MOST_STEPS
    if not groups:
        return DecisionList()
    starts = _likeliest(groups) if not form.last else [""]
    best: tuple[int, list[_Table]] | None = None
    found: dict[tuple[int, ...], list[_Table]] = {}
    for chosen in _choices(form):
        if steps < 0:
            break
        # The default, or the table that is asked last, is always there.
        places = (*chosen, len(form.tables))
        fewer = _merged(groups, places)
        empty = [_Table(place, _price(names, place, least), {}) for place in places]
        if best is not None:
            if _at_least(fewer, [table.price for table in empty[:-1]]) >= best[0]:
                continue
            if (without_gain := _without_gain(fewer, empty, chosen, found)) is not None:
                found[chosen] = without_gain
                continue
        cost, found[chosen] = _least(fewer, empty, starts)
        # A clause is found by going over all groups once, from each start.
        clauses = sum(len(table.answers) for table in found[chosen])
        steps -= (clauses + 2) * len(fewer) * len(empty) * len(starts)
        if best is None or cost < best[0]:
            best = cost, found[chosen]
    assert best is not None, "a list without tables is among the choices"
    tables = best[1]
    if form.last:
        every = (*range(len(form.tables)), len(form.tables))
        whole = [
            next((table for table in tables if table.place == place), _Table(place, _price(names, place, least), {}))
            for place in every
        ]
        tables = _turned(_merged(groups, every), whole)
    return _list_of(groups, names, tables)._replace(proved=_is_least(groups, tables, form, least))


def _is_least(groups: Sequence[_Group], tables: Sequence[_Table], form: Form, least: int) -> bool:
    """Whether it is proved that no list costs less, what decides between lists of the same cost left aside."""
    clause, mistake = 2 * least - 1, 2
    whole = [_fitted(group, tables) for group in groups]
    missed = sum(len(group.examples) for group in whole if _answer(group, tables, 0, len(tables)) != group.answer)
    cost = mistake * missed + clause * sum(len(table.answers) for table in tables if table.place != len(form.tables))
    cells = (Cell(group.keys, group.answer, len(group.examples)) for group in groups)
    return least_cost(cells, clause=clause, mistake=mistake, has_last=bool(form.last)) >= cost


def _fitted(group: _Group, tables: Sequence[_Table]) -> _Group:
    """A group with the keys of these tables alone."""
    return group._replace(keys=tuple(group.keys[table.place] for table in tables))


def _choices(form: Form) -> Iterator[tuple[int, ...]]:
    """The tables that a list may have, the fewest first; of many combinations fewer are put together."""
    most = min(_MOST_TABLES if len(form.tables) <= 7 else 2, len(form.tables))
    for count in range(most + 1):
        yield from combinations(range(len(form.tables)), count)


def _grouped(observations: Iterable[Observation], tables: Sequence[Key], last: str, least: int) -> list[_Group]:
    """Observations put together by what could be asked of them; a value that too few examples have is left away.

    Nearly every order has a buyer of its own: with that among the facts no two would ever be in one group.
    """
    every = list(observations)
    names = sorted({name for table in tables for name in table})
    met: dict[tuple[str, str], set[int]] = defaultdict(set)
    for one in every:
        for name in names:
            met[name, one.facts.get(name, "")].add(one.example)
    often = {
        key
        for key, found in met.items()
        if key[1] and len(key[1]) <= LONGEST_VALUE and (len(found) >= least or key[0] == last)
    }
    grouped: dict[tuple[tuple[Key | None, ...], str], set[int]] = defaultdict(set)
    for one in every:
        facts = {name: value for name in names if (name, value := one.facts.get(name, "")) in often}
        keys = tuple(tuple(facts[name] for name in table) if all(name in facts for name in table) else None
                     for table in tables)  # fmt: skip
        grouped[keys, one.answer].add(one.example)
    return [_Group(keys, answer, frozenset(found)) for (keys, answer), found in grouped.items()]


def _merged(groups: Sequence[_Group], places: Sequence[int]) -> list[_Group]:
    """The groups as far as these tables tell them apart, with the keys of these alone."""
    merged: dict[tuple[tuple[Key | None, ...], str], list[frozenset[int]]] = defaultdict(list)
    for group in groups:
        merged[tuple(group.keys[place] for place in places), group.answer].append(group.examples)
    return [_Group(keys, answer, frozenset().union(*found)) for (keys, answer), found in merged.items()]


def _least(groups: Sequence[_Group], empty: Sequence[_Table], starts: Sequence[str]) -> tuple[int, list[_Table]]:
    """The best list with these tables, from each default that it may begin with."""
    lists = []
    for default in starts:
        tables = [table._replace(answers={}) for table in empty]
        if default:
            tables[-1].answers[()] = default
        _grow(groups, tables)
        _settle(groups, tables)
        lists.append((_cost(groups, tables), tables))
    return min(lists, key=lambda one: one[0])


def _turned(groups: Sequence[_Group], tables: list[_Table]) -> list[_Table]:
    """The list with other answers in its last table, where clauses before it make up for that and it costs less.

    Where as many examples say one thing of a class as another, which of both is the rule and which the exception shows
    only by what the exception can hang on.
    """
    answers: dict[Key, set[str]] = defaultdict(set)
    for group in groups:
        if (key := group.keys[-1]) is not None:
            answers[key].add(group.answer)
    best = _cost(groups, tables), tables
    for key, others in sorted(answers.items()):
        for other in sorted(others - {best[1][-1].answers.get(key, "")}):
            turned = [table._replace(answers={}) for table in best[1]]
            turned[-1].answers.update(best[1][-1].answers | {key: other})
            _grow(groups, turned)
            cost = _cost(groups, turned)
            if cost < best[0]:
                best = cost, turned
    return best[1]


def _without_gain(
    groups: Sequence[_Group], empty: Sequence[_Table], chosen: Sequence[int],
    found: Mapping[tuple[int, ...], list[_Table]],
) -> list[_Table] | None:  # fmt: skip
    """A best list of all these tables but one, where none of them would gain anything beside that of the others."""
    extended = None
    for place, one in enumerate(chosen):
        others = found.get(tuple(other for other in chosen if other != one))
        if others is None:
            return None
        extended = [*others[:place], empty[place], *others[place:]]
        if _gains(groups, extended, place):
            return None
    return extended


def _at_least(groups: Sequence[_Group], prices: Sequence[int]) -> int:
    """What a list with these tables must cost: a clause in each, and of what they cannot tell apart all but the most.

    With an empty table it is a list of fewer tables, which was looked at before.
    """
    answers: dict[tuple[Key | None, ...], list[int]] = defaultdict(list)
    for group in groups:
        answers[group.keys].append(len(group.examples))
    missed = sum(sum(counts) - max(counts) for counts in answers.values())
    return 2 * _UNIT * missed + sum(prices)


def _likeliest(groups: Sequence[_Group]) -> list[str]:
    """The answers that are worth a try as the default, the most frequent first."""
    counts: Counter[str] = Counter()
    for group in groups:
        counts[group.answer] += len(group.examples)
    often = [answer for answer, count in counts.items() if 20 * count >= counts.total()]
    return sorted(often or counts, key=lambda answer: (-counts[answer], answer))[:_MOST_DEFAULTS]


def _grow(groups: Sequence[_Group], tables: Sequence[_Table]) -> None:
    """Add the clause that gains the most, again and again, for as long as one gains anything."""
    for _ in range(_MOST_CLAUSES):
        gains = [
            (gain, -place, key, answer)
            for place, found in enumerate(_all_gains(groups, tables))
            for key, (answer, gain) in found.items()
            if key not in tables[place].answers
        ]
        if not gains:
            return
        # Of those that gain as much the one that is asked first, then by its name: always the same.
        _, place, key, answer = max(gains)
        tables[-place].answers[key] = answer


def _settle(groups: Sequence[_Group], tables: list[_Table]) -> None:
    """Make each table the best beside the others, from the last to the first, until none can be bettered."""
    for _ in range(_MOST_ROUNDS):
        changed = False
        for place in range(len(tables) - 1, -1, -1):
            answers = {key: answer for key, (answer, _) in _gains(groups, tables, place).items()}
            changed = changed or answers != tables[place].answers
            tables[place] = tables[place]._replace(answers=answers)
        if not changed:
            return


def _price(names: Sequence[Key], place: int, least: int) -> int:
    if place == len(names) - 1:
        # A default is one answer, whatever it is; of what is asked last each value needs its own.
        return _UNIT if names[place] else 0
    # Of those that explain as much, the one with fewer conditions, and asked later: it speaks for more.
    return (2 * least - 1) * _UNIT + len(names) - place + 20 * len(names[place])


def _gains(groups: Sequence[_Group], tables: Sequence[_Table], place: int) -> dict[Key, tuple[str, int]]:
    """The clauses that a table would best have beside all others, each with what it gains over having none."""
    return _all_gains(groups, tables, place)[place]


def _all_gains(
    groups: Sequence[_Group], tables: Sequence[_Table], only: int | None = None
) -> list[dict[Key, tuple[str, int]]]:
    """For each table, or for one, the clauses that it would best have beside all others, with what each gains.

    Each line of a table stands for itself, so the best of each is found directly.
    """
    answered: list[dict[Key, dict[str, list[frozenset[int]]]]] = [{} for _ in tables]
    without: list[dict[Key, list[frozenset[int]]]] = [{} for _ in tables]
    places = range(len(tables))
    for keys, wanted, examples in groups:
        answers = [tables[place].answers.get(keys[place]) for place in places]  # type: ignore[arg-type]
        first = next((place for place, answer in enumerate(answers) if answer is not None), len(tables))
        # Asked from the last on: what answers after a table is what would answer without it.
        later = None
        for place in reversed(places):
            key = keys[place]
            if place <= first and key is not None and (only is None or place == only):
                answered[place].setdefault(key, {}).setdefault(wanted, []).append(examples)
                if later == wanted:
                    without[place].setdefault(key, []).append(examples)
            later = answers[place] if answers[place] is not None else later
    return [_best(answered[place], without[place], tables[place].price) for place in places]


def _best(
    answered: Mapping[Key, Mapping[str, Sequence[frozenset[int]]]], without: Mapping[Key, Sequence[frozenset[int]]],
    price: int,
) -> dict[Key, tuple[str, int]]:  # fmt: skip
    """Of each line of a table the answer that gains the most, where one gains anything."""
    found: dict[Key, tuple[str, int]] = {}
    for key, by_answer in answered.items():
        # By examples and not by lines: one order with a mistake on each of three lines speaks once.
        counts = {answer: len(frozenset().union(*examples)) for answer, examples in by_answer.items()}
        answer = min(counts, key=lambda one: (-counts[one], one))
        gain = 2 * _UNIT * (counts[answer] - len(frozenset().union(*without.get(key, ())))) - price
        if gain > 0:
            found[key] = answer, gain
    return found


def _answer(group: _Group, tables: Sequence[_Table], first: int, last: int) -> str | None:
    """What the tables from ``first`` up to ``last`` answer; the group's keys stand in their order."""
    for place in range(first, last):
        key = group.keys[place]
        if key is not None and (found := tables[place].answers.get(key)) is not None:
            return found
    return None


def _cost(groups: Sequence[_Group], tables: Sequence[_Table]) -> int:
    missed = sum(len(group.examples) for group in groups if _answer(group, tables, 0, len(tables)) != group.answer)
    return 2 * _UNIT * missed + sum(len(table.answers) * table.price for table in tables)


def _list_of(groups: Sequence[_Group], names: Sequence[Key], tables: Sequence[_Table]) -> DecisionList:
    """The list, with how many examples speak for and against each clause."""
    supported: dict[tuple[int, Key], set[int]] = defaultdict(set)
    contradicted: dict[tuple[int, Key], set[int]] = defaultdict(set)
    exceptions: set[int] = set()
    for group in groups:
        for table in tables:
            key = group.keys[table.place]
            if key is not None and (answer := table.answers.get(key)) is not None:
                right = answer == group.answer
                (supported if right else contradicted)[table.place, key].update(group.examples)
                break
        else:
            right = False
        if not right:
            exceptions |= group.examples
    clauses = [
        Clause(tuple(zip(names[table.place], key, strict=True)), answer, len(supported[table.place, key]),
               len(contradicted[table.place, key]))
        for table in tables
        for key, answer in sorted(table.answers.items())
    ]  # fmt: skip
    default = clauses.pop() if clauses and not clauses[-1].conditions else None
    if default is None and not names[-1]:
        # No example came as far as the default. Whatever is new takes what most others had.
        most = Counter({clause.answer: clause.supported for clause in clauses}).most_common(1)
        default = Clause((), most[0][0], 0, 0)
    return DecisionList(tuple(clauses), default, tuple(sorted(exceptions)))
