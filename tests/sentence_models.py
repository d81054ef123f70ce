"""How well past fixes are ranked on the demo's history, beside plain text and a model of sentences. Run by `make models`.

The earlier three quarters of the solved jobs are learned from, the later calls are asked; the fix that was found on site
is the true one. Writes docs/past-fixes.md. The model is one that its package carries, 256 numbers for each piece of a
word: a text is the mean of its pieces. Its package is installed by the command alone and used by nothing else.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Callable, Sequence
from functools import cache
from importlib import import_module
from importlib.metadata import distribution
from os import environ
from pathlib import Path
from typing import Any

import numpy as np
from rank_bm25 import BM25Okapi

from reedling.core.pastfixes.ranking import FixRanker
from reedling.core.pastfixes.solved import FaultCall, Remedied, SolvedJob
from reedling.core.statistics.intervals import wilson_interval
from reedling.wiring import open_context

DOCUMENT = Path(__file__).parents[1] / "docs" / "past-fixes.md"
LEARNED_SHARE = 0.75
NEIGHBOURS = (10, 20, 30)

Ranked = Sequence[Remedied]


def solved_jobs(folder: Path | None) -> tuple[SolvedJob, ...]:
    """The solved jobs of a demo, in the order they were finished; of a fresh one where no folder is given."""
    with tempfile.TemporaryDirectory() as fresh:
        if folder is None:
            subprocess.run(
                [Path(sys.executable).with_name("reedling"), "demo"],
                env={**environ, "REEDLING_DATA": fresh},
                check=True,
            )
        with open_context(folder or Path(fresh), demo=True).reading() as unit:
            return unit.job_evidence.solved_jobs()


@cache
def model() -> tuple[Any, np.ndarray]:
    """What cuts a text into pieces, and the vector of each piece."""
    # Its files are read, its own code is not needed; the packages are there for this command alone.
    package = distribution("wordllama")
    words = package.locate_file("wordllama/tokenizers/l2_supercat_tokenizer_config.json")
    weights = package.locate_file("wordllama/weights/l2_supercat_256.safetensors")
    tokenizer = import_module("tokenizers").Tokenizer.from_file(str(words))
    (table,) = import_module("safetensors.numpy").load_file(str(weights)).values()
    return tokenizer, np.asarray(table, dtype=float)


def vectors(texts: Sequence[str]) -> np.ndarray:
    """Each text as the mean of the vectors of its pieces, of length 1; shape (n, 256)."""
    tokenizer, table = model()
    means = np.array([table[encoded.ids].mean(axis=0) for encoded in tokenizer.encode_batch(list(texts))])
    return np.asarray(means / np.linalg.norm(means, axis=1, keepdims=True))


def by_text(before: Sequence[SolvedJob]) -> Callable[[FaultCall], Ranked]:
    """The fixes of the jobs whose words are most alike, by rank_bm25's Okapi BM25."""
    index = BM25Okapi([job.call.report.lower().split() for job in before])

    def rank(call: FaultCall) -> Ranked:
        order = np.argsort(-index.get_scores(call.report.lower().split()), kind="stable")
        return list(dict.fromkeys(before[i].fix for i in order[:50]))

    return rank


def by_counts(before: Sequence[SolvedJob]) -> Callable[[FaultCall], Ranked]:
    """As the screens rank them."""
    ranker = FixRanker.of(before)
    return lambda call: [past.fix for past in ranker.rank(call)]


def by_sentences(
    before: Sequence[SolvedJob], n: int, *, of_the_symptom: bool
) -> Callable[[FaultCall], Ranked]:
    """A vote of the ``n`` jobs whose sentences are nearest, of all or of those with the same symptom."""
    held = vectors([job.call.report for job in before])
    symptoms = np.array([job.call.symptom for job in before])

    def rank(call: FaultCall) -> Ranked:
        near = held @ vectors([call.report])[0]
        if of_the_symptom:
            near = np.where(symptoms == call.symptom, near, -1.0)
        votes: Counter[Remedied] = Counter()
        for i in np.argsort(-near, kind="stable")[:n]:
            votes[before[i].fix] += 1
        return [fix for fix, _ in votes.most_common()]

    return rank


def main() -> None:
    """Try all of them and write the table; the first argument may be the folder of a demo that is there."""
    jobs = solved_jobs(Path(sys.argv[1]) if len(sys.argv) > 1 else None)
    n_before = round(len(jobs) * LEARNED_SHARE)
    before, asked = jobs[:n_before], jobs[n_before:]
    ways: list[tuple[str, Callable[[FaultCall], Ranked]]] = [
        ("as the screens rank them", by_counts(before)),
        ("plain text (BM25)", by_text(before)),
        ("sentences, the nearest job", by_sentences(before, 1, of_the_symptom=False)),
    ]
    for n in NEIGHBOURS:
        ways.append((f"sentences, a vote of the {n} nearest", by_sentences(before, n, of_the_symptom=False)))
        ways.append(
            (
                f"sentences, a vote of the {n} nearest of the same symptom",
                by_sentences(before, n, of_the_symptom=True),
            )
        )
    lines = [
        "# How well past fixes are ranked",
        "",
        f"Written by `make models`, on the history of the demo: {n_before:,} solved jobs to learn from, {len(asked):,} later",
        "calls. The fix that was found on site is the true one. Ranges are Wilson's, 95 %. The model of sentences is",
        "wordllama's, 256 numbers for each piece of a word; how many neighbours vote best was not chosen beforehand.",
        "What these figures led to stands in [decision 038](decisions/038-past-fixes.md).",
        "",
        "| ranked by | the first is the true one | among the first three |",
        "|---|---|---|",
    ]
    for name, rank in ways:
        ranked = [rank(job.call)[:3] for job in asked]
        cells = []
        for n in (1, 3):
            found = wilson_interval(
                sum(job.fix in fixes[:n] for job, fixes in zip(asked, ranked, strict=True)), len(asked)
            )
            assert found.share is not None
            cells.append(f"{found.share:.0%} ({found.low:.0%} to {found.high:.0%})")
        lines.append(f"| {name} | {' | '.join(cells)} |")
        print(lines[-1], flush=True)
    DOCUMENT.write_text("\n".join(lines) + "\n", "utf-8")


if __name__ == "__main__":
    main()
