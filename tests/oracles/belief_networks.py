"""A general library of belief networks, to hold fault guides against: pgmpy (Ankan and Panda 2015)."""

from __future__ import annotations

import gzip
import warnings
from collections.abc import Callable, Collection, Mapping
from importlib import resources
from typing import Any

from reedling.core.faultguide.guides import FaultGuide

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    from pgmpy.factors.discrete import TabularCPD
    from pgmpy.inference import VariableElimination
    from pgmpy.models import DiscreteBayesianNetwork
    from pgmpy.readwrite import BIFReader

Network = Any
"""The library has no types."""


def network_of(guide: FaultGuide) -> Network:
    """A guide as a network: one node for the cause, and under it one for each check and for what each remedy does."""
    names = [f"check {i}" for i in range(len(guide.checks))] + [
        f"repair {i}" for i in range(len(guide.repairs))
    ]
    rows = [check.yes for check in guide.checks] + [repair.fixes for repair in guide.repairs]
    network = DiscreteBayesianNetwork([("cause", name) for name in names])
    n = len(guide.causes)
    network.add_cpds(
        TabularCPD("cause", n, [[p] for p in guide.chances]),
        *(
            TabularCPD(name, 2, [[1 - p for p in row], list(row)], ["cause"], [n])
            for name, row in zip(names, rows, strict=True)
        ),
    )
    assert network.check_model()
    return network


def asked_of(network: Network) -> Any:
    """A network to be asked, exactly, by eliminating variables."""
    return VariableElimination(network)


def asker_of(network: Network) -> Callable[[Mapping[int, bool], Collection[int]], list[float]]:
    """Asks a network of :func:`network_of` for the causes after answers to checks and remedies that did not help."""
    asked = asked_of(network)

    def ask(answers: Mapping[int, bool], failed: Collection[int] = ()) -> list[float]:
        evidence = {f"check {i}": int(is_yes) for i, is_yes in answers.items()}
        evidence |= {f"repair {i}": 0 for i in failed}
        return [float(p) for p in query(asked, "cause", evidence)]

    return ask


def query(asked: Any, node: str, evidence: Mapping[str, Any]) -> Any:
    """The distribution of a node given what is known of others."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        return asked.query([node], evidence=dict(evidence), show_progress=False).values


def printer_network() -> Network:
    """A published troubleshooter for printing (76 nodes), as the library carries it under the name of win95pts."""
    packed = resources.files("pgmpy.utils").joinpath("example_models/win95pts.bif.gz").read_bytes()
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        return BIFReader(string=gzip.decompress(packed).decode()).get_model()
