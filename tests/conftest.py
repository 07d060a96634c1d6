"""The same examples on every run, so that a change is judged and not the draw (explore with --hypothesis-profile=default); and which tests
go together where several processes share them."""

from typing import Any

import pytest
from hypothesis import settings
from xdist.scheduler import LoadScopeScheduling

settings.register_profile("same", derandomize=True, deadline=None)
settings.load_profile("same")


class Together(LoadScopeScheduling):
    """A file's tests go to one process; so does whatever drives the application in a browser, which is then started once. Files are taken
    in order, so that this, which takes longest, begins first."""

    def _split_scope(self, nodeid: str) -> str:
        file = nodeid.partition("::")[0]
        return "browser" if file.startswith("tests/browser/") else file


@pytest.hookimpl(optionalhook=True)
def pytest_xdist_make_scheduler(config: pytest.Config, log: Any) -> Together:
    return Together(config, log)
