"""Atleta's core: a clip of a lift in, an analysis document out.

The folders are the data flow: footage → tracking → motion → events → measures → faults → coaching.
"""

__version__ = "0.2.0"
