"""The order of a runsheet's lines, and standard steps that several plans ask for."""

from __future__ import annotations

import heapq
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace

from reedling.core.guidance.phases import phase_rank
from reedling.core.guidance.reuse import rename_question
from reedling.core.logic.conditions import Condition, Conjunction, Disjunction, rename_questions
from reedling.core.runsheet.lines import RunsheetLine


def standard_of(line: RunsheetLine) -> str:
    """The standard step that a line reuses, without its revision; empty when it reuses none."""
    return line.standard.rpartition(" ")[0]


def plan_of(line: RunsheetLine) -> str:
    """The plan that brought a line, also where the line was written in a form."""
    return line.id.partition(":")[0]


def merge_standard_steps(lines: Iterable[RunsheetLine]) -> tuple[RunsheetLine, ...]:
    """The lines with each standard step done once where several plans want it: one use of one plan for
    one use of another (docs/decisions/022).

    Uses in the same phase go together first, then the others in their order, in the earliest phase that
    wants it. A use in Prove goes with uses in Prove only, so that a proof is neither dropped for a check
    before the repair nor moved before it. Several uses within one plan all stay. One that is repeated
    over other things is another step.

    It is wanted when any of those who ask for it want it. What asked about the answers of one that
    fell away asks about those of the one that stays, and what hung under it hangs under that one.
    """
    given = tuple(lines)
    reused = {standard_of(line) for line in given} - {""}
    uses: dict[tuple[object, ...], list[RunsheetLine]] = {}
    for line in given:
        # A standard step may also be on the order by itself, as a plan of one step.
        standard = standard_of(line) or (plan_of(line) if plan_of(line) in reused else "")
        if standard:
            uses.setdefault((standard, line.repeat, line.phase == "Prove"), []).append(line)
    by_id = {line.id: line for line in given}
    stays: dict[str, RunsheetLine] = {}
    moved: dict[str, str] = {}
    for together in (group for of_step in uses.values() for group in _one_for_one(of_step)):
        if len(together) < 2:
            continue
        kept = min(together, key=lambda line: phase_rank(line.phase))
        asking = tuple(plan_of(line) for line in together)
        stays[kept.id] = _kept(kept, [_effective(line, by_id) for line in together], asking)
        for line in together:
            if line.id != kept.id:
                moved[line.id] = kept.id
                moved.update(
                    zip((q.id for q in line.questions), (q.id for q in kept.questions), strict=False)
                )
    if not moved:
        return given
    return tuple(_renamed(stays.get(line.id, line), moved) for line in given if line.id not in moved)


def _one_for_one(uses: Sequence[RunsheetLine]) -> list[list[RunsheetLine]]:
    """Uses of one standard step put together, at most one of each plan in a group."""
    of_plan: dict[str, list[RunsheetLine]] = {}
    for line in uses:
        of_plan.setdefault(plan_of(line), []).append(line)
    groups: list[list[RunsheetLine]] = []
    for own in of_plan.values():
        free = list(groups)
        left = []
        for line in own:
            same = next((g for g in free if any(other.phase == line.phase for other in g)), None)
            if same is None:
                left.append(line)
            else:
                same.append(line)
                free.remove(same)
        for line, group in zip(left, free, strict=False):
            group.append(line)
        groups += [[line] for line in left[len(free) :]]
    return groups


def _effective(line: RunsheetLine, by_id: Mapping[str, RunsheetLine]) -> Condition | None:
    """When a line is wanted, with all that it hangs under; nothing for always."""
    conditions: list[Condition] = []
    at: RunsheetLine | None = line
    while at is not None:
        if at.condition is not None:
            conditions.append(at.condition)
        at = by_id.get(at.under) if at.under else None
    if len(conditions) > 1:
        return Conjunction(parts=tuple(conditions))
    return conditions[0] if conditions else None


def _kept(line: RunsheetLine, wanted: Sequence[Condition | None], asking: tuple[str, ...]) -> RunsheetLine:
    if any(w is None for w in wanted):
        return replace(line, under=None, condition=None, when="", asked_by=asking)
    either = tuple(dict.fromkeys(w for w in wanted if w is not None))
    condition = either[0] if len(either) == 1 else Disjunction(parts=either)
    return replace(line, under=None, condition=condition, when="any who ask for it want it", asked_by=asking)


def _renamed(line: RunsheetLine, moved: Mapping[str, str]) -> RunsheetLine:
    def now(identity: str) -> str:
        return moved.get(identity, identity)

    return replace(
        line,
        under=now(line.under) if line.under else None,
        condition=rename_questions(line.condition, now),
        questions=tuple(replace(rename_question(q, now), name=q.name) for q in line.questions),
        parts=tuple(replace(p, condition=rename_questions(p.condition, now)) for p in line.parts),
    )


def arrange_lines(
    lines: Iterable[RunsheetLine], after: Mapping[str, Sequence[str]]
) -> tuple[RunsheetLine, ...]:
    """By phase, then so that each document's steps come after those it is declared after, then as given.

    A step keeps its branches behind it. A standard step that is itself named in a declaration goes by
    that, not by its plan's. Of all orders that keep the declarations, the one nearest to the given
    (Kahn 1962, with a queue by place). Declarations that go round in a ring are an error when a table
    is written; should they get here, the first step of the ring goes first.
    """
    phases: dict[int, list[RunsheetLine]] = {}
    for line in lines:
        phases.setdefault(phase_rank(line.phase), []).append(line)
    named = {*after, *(e for earlier in after.values() for e in earlier)}
    return tuple(line for rank in sorted(phases) for line in _in_phase(phases[rank], after, named))


def _in_phase(
    lines: Sequence[RunsheetLine], after: Mapping[str, Sequence[str]], named: set[str]
) -> Iterator[RunsheetLine]:
    blocks = _blocks(lines)
    kinds = [_kind(block[0], named) for block in blocks]
    members: dict[str, list[int]] = {}
    for place, kind in enumerate(kinds):
        members.setdefault(kind, []).append(place)
    left = {kind: len(places) for kind, places in members.items()}
    waits = {kind: {e for e in _earlier(kind, after) if e in members} - {kind} for kind in members}
    opens: dict[str, list[str]] = {}
    for kind, earlier in waits.items():
        for e in earlier:
            opens.setdefault(e, []).append(kind)
    ready = sorted(p for kind, places in members.items() if not waits[kind] for p in places)
    out: set[int] = set()
    while len(out) < len(blocks):
        if not ready:
            ready = [next(p for p in range(len(blocks)) if p not in out)]
        place = heapq.heappop(ready)
        if place in out:
            continue
        out.add(place)
        yield from blocks[place]
        kind = kinds[place]
        left[kind] -= 1
        for later in opens.get(kind, ()) if left[kind] == 0 else ():
            waits[later].discard(kind)
            if not waits[later]:
                for p in members[later]:
                    heapq.heappush(ready, p)


def _earlier(kind: str, after: Mapping[str, Sequence[str]]) -> set[str]:
    """Everything declared to come earlier, also by way of documents that have no step here."""
    found: set[str] = set()
    waiting = list(after.get(kind, ()))
    while waiting:
        document = waiting.pop()
        if document not in found:
            found.add(document)
            waiting += after.get(document, ())
    return found


def _kind(line: RunsheetLine, named: set[str]) -> str:
    standard = standard_of(line)
    return standard if standard in named else plan_of(line)


def _blocks(lines: Sequence[RunsheetLine]) -> list[list[RunsheetLine]]:
    """Each step with what hangs under it right behind it, in the order given."""
    blocks: list[list[RunsheetLine]] = []
    inside: set[str | None] = set()
    for line in lines:
        if line.under not in inside:
            blocks.append([])
            inside = set()
        blocks[-1].append(line)
        inside.add(line.id)
    return blocks
