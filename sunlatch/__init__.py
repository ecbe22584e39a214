"""Sun Latch, the core: frames, light, latches, moves, the scene document and its rendering."""

import os

# Matrices here are small, and many at a time: threads of BLAS's own spin in wait for one another, and take the core's.
# Said before NumPy is read; who sets it otherwise has it so.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
