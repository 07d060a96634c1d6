"""The running application attacked, with smaller numbers than `make bench-attack` has."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import pytest
from bench.attack import CLIP, Site, files, full_disk, held_open, hung_worker, kills, measured, running, same_file_at_once, two_tabs


@dataclass(frozen=True)
class Attacked:
    site: Site
    clip: str


@pytest.fixture(scope="module")
def attacked(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Attacked]:
    var: Path = tmp_path_factory.mktemp("attacked")
    with running(var) as site:
        yield Attacked(site, measured(site, site.browser(), CLIP.read_bytes(), 600))


ATTACKS = [(same_file_at_once, 3), (two_tabs, 3), (held_open, 40), (files, 12), (hung_worker, 1), (kills, 6)]


@pytest.mark.parametrize(("attack", "times"), ATTACKS)
def test_what_is_acknowledged_stands_and_nothing_stands_still(attacked: Attacked, attack: object, times: int) -> None:
    outcome = attack(attacked.site, attacked.clip, times)  # type: ignore[operator]
    assert outcome.sound, outcome


def test_a_full_disk_is_said_in_words_and_what_is_there_can_be_read() -> None:
    outcome = full_disk()
    if outcome is None:
        pytest.skip("No small disk can be had here.")
    assert outcome.sound, outcome
