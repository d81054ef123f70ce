"""How long a fault guide takes to answer: part of `make bench`."""

from __future__ import annotations

import itertools
import statistics
import time
from collections.abc import Callable
from functools import partial

from reedling.core.faultguide.arrays import arrays_of
from reedling.core.faultguide.guides import FaultGuide, bits, posterior
from reedling.core.faultguide.next_doing import next_doing
from reedling.core.faultguide.strategies import _Ahead, best_strategy
from reedling.core.faultguide.turning_points import turning_points
from reedling.core.pastfixes.ranking import FixRanker
from tests.core.faultguide.test_faultguide import a_guide
from tests.core.pastfixes.history import History
from tests.oracles.belief_networks import asker_of, network_of

LINE = "{:58} {:>12} {:>12} {:>8}"


def milliseconds(act: Callable[[], object], times: int) -> float:
    """Median milliseconds of so many runs."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        act()
        taken.append(time.perf_counter() - start)
    return 1000 * statistics.median(taken)


def by_the_joint(guide: FaultGuide, answers: dict[int, bool]) -> list[float]:
    """The obvious way: the joint distribution over causes and the answered checks, written out and summed."""
    mass = [0.0] * len(guide.causes)
    for cause in range(len(guide.causes)):
        for seen in itertools.product((True, False), repeat=len(answers)):
            p = guide.chances[cause]
            for (check, _), value in zip(answers.items(), seen, strict=True):
                yes = guide.checks[check].yes[cause]
                p *= yes if value else 1 - yes
            if all(value is answers[check] for check, value in zip(answers, seen, strict=True)):
                mass[cause] += p
    total = sum(mass)
    return [m / total for m in mass]


def main() -> None:
    """Print the table."""
    print(LINE.format("fault guide", "ms", "obvious way", "ratio"))
    guide = a_guide(1, 12, 20, 12)
    answers = {0: True, 3: False, 7: True, 9: False}
    ours = milliseconds(lambda: posterior(guide, answers), 2000)
    theirs = milliseconds(lambda: by_the_joint(guide, answers), 200)
    print(
        LINE.format(
            "posterior, 12 causes, 20 checks, 4 answers",
            f"{ours:.3f}",
            f"{theirs:.2f}",
            f"{theirs / ours:.0f} x",
        )
    )
    ask = asker_of(network_of(guide))
    library = milliseconds(lambda: ask(answers, ()), 40)
    print(
        LINE.format(
            "the same, by a library of belief networks",
            f"{ours:.3f}",
            f"{library:.2f}",
            f"{library / ours:.0f} x",
        )
    )
    at = posterior(guide, answers)
    assert at is not None
    ranked = milliseconds(lambda: bits(guide, at), 400)

    def by_the_library() -> None:
        """The belief after either answer to each check that is left, as ranking by a library has to ask for it."""
        for check in set(range(20)) - set(answers):
            for is_yes in (False, True):
                ask({**answers, check: is_yes}, ())

    library = milliseconds(by_the_library, 5)
    print(
        LINE.format(
            "ranking 20 checks by what they tell",
            f"{ranked:.2f}",
            f"{library:.0f}",
            f"{library / ranked:.0f} x",
        )
    )
    ahead = milliseconds(lambda: next_doing(guide, at, range(20), range(12)), 20)
    print(LINE.format("next thing to do, without arrays, as on the phone", f"{ahead:.1f}", "", ""))
    large = a_guide(1, 60, 60, 60)
    figures = arrays_of(large)
    every = frozenset(range(60))
    step = milliseconds(lambda: _Ahead(figures).check(figures.chances, every, every, 1e9), 10)
    print(LINE.format("next thing to do, 60 causes, 60 checks, 60 remedies", f"{step:.1f}", "", ""))
    print(
        LINE.format(
            "whole order, the same, looking ahead",
            f"{milliseconds(lambda: best_strategy(large), 9):.0f}",
            "",
            "",
        )
    )
    for size, times in (((12, 20, 12), 9), ((60, 60, 60), 3)):
        turning = a_guide(1, *size)
        found = milliseconds(partial(turning_points, turning), times)
        causes, checks, remedies = size
        print(
            LINE.format(
                f"what if, {causes} causes, {checks} checks, {remedies} remedies", f"{found:.0f}", "", ""
            )
        )
    history = History(1)
    ranker = FixRanker.of(history.solved(20_000))
    calls = itertools.cycle(history.solved(100, 20_000))
    asked = milliseconds(lambda: ranker.rank(next(calls).call), 100)
    print(LINE.format("past fixes of a call, 20,000 solved jobs", f"{asked:.1f}", "", ""))
    exact = a_guide(1, 6, 6, 4)
    found = milliseconds(lambda: best_strategy(exact), 3)
    print(LINE.format("whole order, 6 checks and 4 remedies, exact", f"{found:.0f}", "", ""))


if __name__ == "__main__":
    main()
