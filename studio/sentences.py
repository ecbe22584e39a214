"""What the studio says where the machine, and not the photographer, is the reason."""

import errno

ABSENT = "Not found, or you do not have access."
SIGNED_OUT = "You are signed out. Sign in again; nothing here is lost."


def of_disk(error: OSError) -> str:
    """What an error of the disk means."""
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return "The disk is full. Nothing was stored; make room, then try again."
    if error.errno in (errno.EROFS, errno.EACCES, errno.EPERM):
        return "The data folder may not be written to. Nothing was stored."
    return f"Could not save to disk ({error.strerror or 'no reason given'}). Nothing was changed."


def of_database(error: Exception) -> str:
    """What an error of the database means."""
    text = str(error)
    if "full" in text:
        return "The disk is full. Nothing was saved; make room, then try again."
    if "readonly" in text or "unable to open" in text:
        return "The data folder may not be written to. Nothing was saved."
    if "locked" in text or "busy" in text:
        return "The database is busy. Nothing was saved; it is tried again."
    return "The database refused. Nothing was saved."


def of_anything(error: BaseException | None) -> str:
    """What to say of an error that nothing else has a word for."""
    from django.db import DatabaseError

    if isinstance(error, DatabaseError):
        return of_database(error)
    if isinstance(error, OSError):
        return of_disk(error)
    kind = type(error).__name__ if error is not None else "unknown"
    return f"That did not work; what was saved is kept. ({kind})"
