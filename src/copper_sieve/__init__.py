"""Copper Sieve: derive, convert, pack and deliver PBR texture sets."""

import os

# Large work runs in bands over the cores (core/bands.py). Threads of the linear algebra beside them gain nothing and wait for one
# another where the cores are busy; they are counted when numpy is first imported, so it is said here.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
