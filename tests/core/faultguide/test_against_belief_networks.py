"""Beliefs of fault guides against a library of belief networks, on random ones and on a published troubleshooter."""

from __future__ import annotations

import random
from itertools import combinations

import pytest

from reedling.core.faultguide.guides import Check, FaultGuide, Repair, posterior
from tests.core.faultguide.test_faultguide import a_guide
from tests.oracles.belief_networks import Network, asked_of, asker_of, network_of, printer_network, query


@pytest.mark.parametrize("seed", range(25))
def test_beliefs_of_random_guides_are_those_of_the_library(seed: int) -> None:
    rng = random.Random(seed)
    guide = a_guide(seed, rng.randint(2, 8), rng.randint(1, 8), rng.randint(1, 4))
    ask = asker_of(network_of(guide))
    for _ in range(4):
        checks = rng.sample(range(len(guide.checks)), rng.randint(0, len(guide.checks)))
        answers = {check: rng.random() < 0.5 for check in checks}
        perfect = {i for i, repair in enumerate(guide.repairs) if all(f == 1 for f in repair.fixes)}
        failed = [i for i in range(len(guide.repairs)) if i not in perfect and rng.random() < 0.4]
        found = posterior(guide, answers, failed)
        assert found is not None
        assert found == pytest.approx(ask(answers, failed), abs=1e-12)


@pytest.mark.slow
def test_on_a_published_troubleshooter_two_symptoms_tell_of_a_fault_what_the_whole_network_does() -> None:
    """The network win95pts, 76 nodes: a fault and two things to see that depend on each other through it alone.

    The guide knows only how likely each is with and without the fault; the library reasons over all 76 nodes.
    """
    network = printer_network()
    whole = asked_of(network)
    faults = [node for node in network.nodes() if not list(network.get_parents(node))]
    leaves = [node for node in network.nodes() if not list(network.get_children(node))]
    held = 0
    for fault in sorted(faults):
        seen = [leaf for leaf in sorted(leaves) if network.is_dconnected(fault, leaf)]
        pairs = [
            (one, other)
            for one, other in combinations(seen, 2)
            if not network.is_dconnected(one, other, observed=[fault])
        ]
        for pair in pairs[:2]:
            assert_same(whole, fault, pair)
            held += 1
    assert held >= 4, "there is something to hold it against"


def assert_same(whole: Network, fault: str, pair: tuple[str, str]) -> None:
    states = [whole.model.get_cpds(node).state_names[node] for node in (fault, *pair)]
    given = [[query(whole, leaf, {fault: state}) for state in states[0]] for leaf in pair]
    guide = FaultGuide(
        causes=tuple(states[0]),
        chances=tuple(float(p) for p in query(whole, fault, {})),
        checks=tuple(
            Check(id=leaf, label=leaf, minutes=1, yes=tuple(float(p[1]) for p in of_state))
            for leaf, of_state in zip(pair, given, strict=True)
        ),
        repairs=(Repair(id="r", label="R", minutes=1, fixes=(1.0, 1.0)),),
        prove_minutes=0,
        last_resort_minutes=1,
    )
    for one in (False, True):
        for other in (False, True):
            found = posterior(guide, {0: one, 1: other})
            evidence = {
                leaf: names[int(v)] for leaf, names, v in zip(pair, states[1:], (one, other), strict=True)
            }
            expected = query(whole, fault, evidence)
            assert found == pytest.approx([float(p) for p in expected], abs=1e-9)
