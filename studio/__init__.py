"""The server: stores, guards, queues, and calls the core."""
