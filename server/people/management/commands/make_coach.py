"""Make a coach's account: `manage.py make_coach NAME`; the password is asked for."""

from __future__ import annotations

from getpass import getpass
from typing import Any

from django.core.management import CommandError
from django.core.management.base import BaseCommand, CommandParser

from people.accounts import CannotEnter, make_coach


class Command(BaseCommand):
    help = "Make a coach's account; the password is asked for."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("username", help="what the coach signs in with")
        parser.add_argument("--name", default="", help="what they are called")

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            make_coach(options["username"], options["name"], getpass("Password: "))
        except CannotEnter as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"{options['username']} can sign in now.")
