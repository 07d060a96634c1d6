"""What the core needs is asked for once, for all who install it: application, tests and benchmarks."""

from __future__ import annotations

import ast
import sys
from importlib.metadata import packages_distributions
from pathlib import Path

ROOT = Path(__file__).parents[2]
# Every list has its own build of OpenCV; the studio is not there at run time.
ELSEWHERE, NOT_AT_RUN_TIME = {"cv2"}, "simulation/studio"


def test_whatever_the_core_imports_is_asked_for() -> None:
    asked = {line.partition("==")[0] for line in (ROOT / "requirements/core.in").read_text().splitlines() if not line.startswith("#")}
    imported: set[str] = set()
    for source in (ROOT / "core/atleta").rglob("*.py"):
        if NOT_AT_RUN_TIME not in source.as_posix():
            for node in ast.walk(ast.parse(source.read_text())):
                if isinstance(node, ast.Import):
                    imported |= {name.name.partition(".")[0] for name in node.names}
                elif isinstance(node, ast.ImportFrom) and node.level == 0 and node.module:
                    imported.add(node.module.partition(".")[0])
    foreign = imported - set(sys.stdlib_module_names) - ELSEWHERE - {"atleta"}
    given = packages_distributions()
    assert {"numpy", "av"} <= foreign
    assert not [name for name in foreign if not asked & {one.lower() for one in given[name]}]
