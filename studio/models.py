"""What is stored. Every object belongs to a user through its outing."""

import uuid
from typing import Any

from django.conf import settings
from django.db import models
from django.utils import timezone

from sunlatch.frame.metadata import FrameInfo


def _id() -> str:
    return uuid.uuid4().hex


class Present(models.Manager):  # type: ignore[type-arg]
    """What is not removed. `of` a photographer: what is his, and lies in nothing that is removed."""

    def get_queryset(self) -> models.QuerySet[Any]:
        """Without what is removed."""
        return super().get_queryset().filter(removed=None)

    def of(self, user: Any) -> models.QuerySet[Any]:
        """A photographer's own."""
        path = self.model.OWNER.split("__")
        around = {"__".join([*path[:n], "removed"]): None for n in range(1, len(path))}
        return self.get_queryset().filter(**{self.model.OWNER: user}, **around)


class Removable(models.Model):
    """Something that can be removed, and taken back for a while (settings.REMOVED_DAYS)."""

    removed = models.DateTimeField(null=True, default=None, db_index=True)
    OWNER = ""
    """How one comes from it to whose it is."""
    objects = Present()
    everything = models.Manager()

    class Meta:
        abstract = True
        base_manager_name = "everything"
        default_manager_name = "objects"


class Outing(Removable):
    """One trip: its frames and the scenes made from them."""

    OWNER = "user"

    id = models.CharField(primary_key=True, max_length=32, default=_id, editable=False)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    name = models.CharField(max_length=200)
    created = models.DateTimeField(auto_now_add=True)


class Group(models.Model):
    """Frames of an outing that belong together. `by_hand` ones are never changed by the program; of
    kind "none" are frames that the photographer keeps apart. `reasons`: what could not be known."""

    id = models.CharField(primary_key=True, max_length=32, default=_id, editable=False)
    outing = models.ForeignKey(Outing, on_delete=models.CASCADE, related_name="groups")
    kind = models.CharField(max_length=10)
    by_hand = models.BooleanField(default=False)
    reasons = models.JSONField(default=list)
    created = models.DateTimeField(auto_now_add=True)


class Habit(Removable):
    """Settings kept to be used again: `of` a "latch" or of "moves", as the core gives them."""

    OWNER = "user"

    id = models.CharField(primary_key=True, max_length=32, default=_id, editable=False)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    of = models.CharField(max_length=10, default="latch")
    name = models.CharField(max_length=120)
    held = models.JSONField()
    created = models.DateTimeField(auto_now_add=True)

    class Meta(Removable.Meta):
        constraints = [models.UniqueConstraint(fields=["user", "of", "name"], name="habit_named_once")]


class Frame(Removable):
    """One captured file, stored once by content hash, never altered. `sorting`: "", "evening",
    "maybe" or "leave". `taken`: when, as the file says, so that it sorts; "" where it does not. `stopped`: the place
    (x, y, fractions of the frame as Gather shows it) that made the photographer stop; null where none was named."""

    OWNER = "outing__user"

    id = models.CharField(primary_key=True, max_length=32, default=_id, editable=False)
    outing = models.ForeignKey(Outing, on_delete=models.CASCADE, related_name="frames")
    sha256 = models.CharField(max_length=64)
    name = models.CharField(max_length=255)
    bytes = models.BigIntegerField()
    info = models.JSONField()
    taken = models.CharField(max_length=80, default="", blank=True)
    sorting = models.CharField(max_length=8, default="", blank=True)
    stopped = models.JSONField(null=True, default=None)
    group = models.ForeignKey(Group, on_delete=models.SET_NULL, null=True, related_name="frames")
    arrived = models.DateTimeField(auto_now_add=True)

    @property
    def facts(self) -> FrameInfo:
        """What the file says of itself."""
        return FrameInfo.model_validate({k: v for k, v in self.info.items() if k in FrameInfo.model_fields})

    class Meta(Removable.Meta):
        constraints = [models.UniqueConstraint(fields=["outing", "sha256"], name="frame_once_per_outing")]


class Scene(Removable):
    """A picture in the making. `head` is the number of the revision in force."""

    OWNER = "frame__outing__user"

    id = models.CharField(primary_key=True, max_length=32, default=_id, editable=False)
    frame = models.ForeignKey(Frame, on_delete=models.PROTECT, related_name="scenes")
    name = models.CharField(max_length=200)
    head = models.IntegerField(default=0)
    created = models.DateTimeField(auto_now_add=True)


class Revision(models.Model):
    """A state of a scene's document; never changed. `parent` is the number it was made from, and
    `words` say what was done, for undo and redo; `key` names the attempt that made it."""

    scene = models.ForeignKey(Scene, on_delete=models.CASCADE, related_name="revisions")
    number = models.IntegerField()
    parent = models.IntegerField(null=True)
    words = models.CharField(max_length=200)
    document = models.JSONField()
    key = models.CharField(max_length=64, default="", blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["scene", "number"], name="revision_number")]


class Keep(Removable):
    """A named revision to come back to and compare with."""

    OWNER = "scene__frame__outing__user"

    id = models.CharField(primary_key=True, max_length=32, default=_id, editable=False)
    scene = models.ForeignKey(Scene, on_delete=models.CASCADE, related_name="keeps")
    number = models.IntegerField()
    name = models.CharField(max_length=120)
    created = models.DateTimeField(auto_now_add=True)


class Job(Removable):
    """Long work. An "export" of a scene ends with its whole file or with nothing; a "shoot" or a
    "folder" brings frames into an outing, and what has arrived stays. It says why it stopped. `tries`: how often it
    was begun."""

    OWNER = "user"

    QUEUED, RUNNING, DONE, FAILED, CANCELLED = "queued", "running", "done", "failed", "cancelled"
    id = models.CharField(primary_key=True, max_length=32, default=_id, editable=False)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    scene = models.ForeignKey(Scene, on_delete=models.CASCADE, related_name="jobs", null=True)
    outing = models.ForeignKey(Outing, on_delete=models.CASCADE, related_name="jobs", null=True)
    kind = models.CharField(max_length=20, default="export")
    settings = models.JSONField()
    document = models.JSONField(null=True)
    state = models.CharField(max_length=10, default=QUEUED)
    step = models.CharField(max_length=80, default="waiting")
    done = models.FloatField(default=0.0)
    message = models.TextField(default="")
    file_name = models.CharField(max_length=255, default="")
    cancel = models.BooleanField(default=False)
    tries = models.IntegerField(default=0)
    began = models.DateTimeField(null=True, default=None)
    created = models.DateTimeField(auto_now_add=True)


class SignInLink(models.Model):
    """A link that signs somebody in once. Only its hash is stored."""

    token_hash = models.CharField(max_length=64, unique=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    used = models.BooleanField(default=False)
    made = models.DateTimeField(default=timezone.now)
    created = models.DateTimeField(auto_now_add=True)
