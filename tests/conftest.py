"""The same examples on every run, so that a change is judged and not the draw; explore with --hypothesis-profile=default."""

from hypothesis import settings

settings.register_profile("same", derandomize=True, deadline=None)
settings.load_profile("same")
