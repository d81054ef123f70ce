"""A history of calls whose truth is known: what callers say, and what it was."""

from __future__ import annotations

import random
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

from reedling.core.pastfixes.solved import FaultCall, Remedied, SolvedJob

START = datetime(2025, 1, 1, tzinfo=UTC)
CAUSES = ("debris", "seal", "relief", "sensor", "bearing", "motor", "cable", "gearbox")
COMMON = [
    "the",
    "it",
    "is",
    "since",
    "this",
    "morning",
    "again",
    "not",
    "working",
    "please",
    "call",
    "keeper",
    "pump",
    "screen",
    "rake",
    "station",
]


class History:
    """Calls of one organisation, from a seed; each cause has words that callers use for it, some of them shared."""

    def __init__(self, seed: int, n_causes: int = 8) -> None:
        self.rng = random.Random(seed)
        words = [f"w{self.rng.randrange(10**6)}x" for _ in range(60)]
        words = ["".join(chr(97 + int(c)) if c.isdigit() else c for c in w) for w in words]
        self.causes = CAUSES[:n_causes]
        self.words = {c: self.rng.sample(words, 7) for c in self.causes}
        self.models = {c: [self.rng.uniform(0.3, 3) for _ in range(4)] for c in self.causes}
        self.weights = [self.rng.uniform(0.3, 3) for _ in self.causes]

    def call(self, cause: str, *, words: Sequence[str] | None = None) -> FaultCall:
        """A call for a cause; with ``words`` in those instead of its own."""
        rng = self.rng
        own = list(words or self.words[cause])
        said = [w for w in own if rng.random() < (0.5 if words else 0.2)]
        other = rng.choice(self.words[rng.choice(self.causes)])
        text = [*said, *(rng.sample(COMMON, 5)), *([other] if rng.random() < 0.5 else [])]
        rng.shuffle(text)
        return FaultCall(
            report=" ".join(text),
            symptom=rng.choice(("stalls", "noise")),
            model=rng.choices("ABCD", self.models[cause])[0],
            equipment="rake",
        )

    def solved(self, n: int, first: int = 0) -> list[SolvedJob]:
        """So many solved jobs, one every few hours."""
        out = []
        for i in range(first, first + n):
            cause = self.rng.choices(self.causes, self.weights)[0]
            out.append(
                SolvedJob(
                    order=f"WO-{i:05d}",
                    call=self.call(cause),
                    fix=Remedied(cause=cause, remedy=f"mend {cause}"),
                    finished_at=START + timedelta(hours=5 * i),
                )
            )
        return out
