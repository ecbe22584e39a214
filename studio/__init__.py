"""The server: stores, guards, queues, and calls the core."""

import sunlatch  # noqa: F401  (before NumPy: it says how many threads that may start)
