from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand

from clips.demo import load_demo


class Command(BaseCommand):
    help = "Bring the demo world in; what is there already stays as it is."

    def handle(self, *args: Any, **options: Any) -> None:
        added = load_demo()
        if added:
            self.stdout.write(f"Demo world: {added} clips added.")
