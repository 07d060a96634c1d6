"""Fail when a file that is generated no longer says what the code says: `make types` writes them anew.

docs/openapi.yaml comes from the server's views and serialisers, web/src/api/schema.d.ts from that.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parents[1]
SCHEMA, TYPES = ROOT / "docs" / "openapi.yaml", ROOT / "web" / "src" / "api" / "schema.d.ts"


def main() -> int:
    with tempfile.TemporaryDirectory() as folder:
        schema, types = Path(folder) / "openapi.yaml", Path(folder) / "schema.d.ts"
        subprocess.run(
            [sys.executable, str(ROOT / "server" / "manage.py"), "spectacular", "--validate", "--fail-on-warn", "--file", str(schema)],
            check=True,
        )
        subprocess.run(["npx", "openapi-typescript", str(SCHEMA), "-o", str(types)], check=True, cwd=ROOT / "web", capture_output=True)
        stale = [kept.relative_to(ROOT) for kept, fresh in ((SCHEMA, schema), (TYPES, types)) if kept.read_text() != fresh.read_text()]
    for path in stale:
        print(f"{path} is stale: run `make types` and commit what it changes.", file=sys.stderr)
    return 1 if stale else 0


if __name__ == "__main__":
    raise SystemExit(main())
