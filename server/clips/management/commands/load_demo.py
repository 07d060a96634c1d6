from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from clips.demo import load_demo


class Command(BaseCommand):
    help = "Bring the demo world in; what is there already stays as it is."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--first", type=int, help="bring in only so many of its clips")

    def handle(self, *args: Any, **options: Any) -> None:
        added = load_demo(options["first"])
        if added:
            self.stdout.write(f"Demo world: {added} clips added.")
