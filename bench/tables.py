"""Tables of the benchmark."""

from __future__ import annotations


def table(head: list[str], rows: list[list[str]]) -> None:
    widths = [max(len(row[i]) for row in [head, *rows]) for i in range(len(head))]
    for row in [head, ["-" * width for width in widths], *rows]:
        print(
            "  ".join(cell.ljust(width) if i == 0 else cell.rjust(width) for i, (cell, width) in enumerate(zip(row, widths, strict=True)))
        )
    print()
