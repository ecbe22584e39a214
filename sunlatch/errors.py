"""What can go wrong, said in one sentence a photographer can act on."""


class SunLatchError(Exception):
    """Any refusal by the core. `str(error)` is one plain sentence: what happened, and to what; line: of the document, whose doing
    it was, as `patience.doing_of` was told."""

    line = ""


class FrameError(SunLatchError):
    """A file that cannot be opened as a frame."""


class DocumentError(SunLatchError):
    """A scene document that is not valid; `where` is the path of the field."""

    def __init__(self, message: str, where: str = "") -> None:
        super().__init__(f"{where}: {message}" if where else message)
        self.where = where
        self.message = message

    @property
    def plain(self) -> str:
        """The sentence without the way to the field: only its own name, where the sentence needs one."""
        name = self.where.rpartition(".")[2].partition("[")[0].replace("_", " ")
        text = self.message.removeprefix("input ")
        text = f"{name} {text}" if text != self.message and name else text
        return f"{text[:1].upper()}{text[1:]}{'' if text.endswith('.') else '.'}"


class StorageError(SunLatchError):
    """The disk could not write, or read: what was to be kept is as good as it was, and may be tried again."""


class RenderError(SunLatchError):
    """A picture that cannot be computed as asked."""


class ExportError(SunLatchError):
    """A file that could not be written; nothing is left behind."""


class CancelledError(SunLatchError):
    """Somebody asked for the work to stop."""


class TooLongError(SunLatchError):
    """Work that was given up because it would take too long."""


class GeometryError(SunLatchError):
    """A lens, plumb or trim that cannot be: the sentence says why, and what stays as it was."""


class JoinError(SunLatchError):
    """Frames that cannot be joined: the sentence names them, and says what to do."""


class MendError(SunLatchError):
    """A repair that cannot be: the sentence says why, and what to do. The picture stays as it was."""


class ProfileError(SunLatchError):
    """A profile nothing can be printed with, or one that cannot be used for what is asked."""
