"""What runs things: whether work is still wanted, how far it is, what is kept, on which threads, how long it took."""

from .cache import ByteCache

__all__ = ["ByteCache"]
