"""Atleta's core: a clip of a lift in, an analysis document out.

The folders are the data flow: footage → tracking → motion → events → measures → faults → coaching.
"""

import os

# Every solve here is of small matrices, for which the linear algebra's own threads cost more than they bring; set before it is loaded.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.26.0"
