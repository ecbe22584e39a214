"""Groups of an outing's frames: recognised by the core, corrected by hand, kept here."""

from django.db import transaction

from sunlatch.frame.grouping import Trait, group_frames, trait_of

from . import services
from .models import Frame, Group, Outing


def trait(frame: Frame) -> Trait:
    """What grouping looks at in a frame."""
    info, pyramid = services.store().first_look(frame.sha256, services.frame_path(frame.sha256))
    return trait_of(frame.name, info, pyramid)


def regroup(outing: Outing) -> None:
    """Recognise anew what belongs together among the frames that were not grouped by hand."""
    free = [f for f in outing.frames.select_related("group") if f.group is None or not f.group.by_hand]
    found = group_frames([trait(frame) for frame in free])
    with transaction.atomic():
        outing.groups.filter(by_hand=False).delete()
        for group in found:
            made = Group.objects.create(outing=outing, kind=group.kind, reasons=group.reasons)
            members = [free[i].pk for i in group.members]
            # a frame that was grouped by hand in the meantime stays where it was put
            Frame.objects.filter(pk__in=members, group=None).update(group=made)


def keep_together(outing: Outing, frames: list[Frame], kind: str) -> None:
    """What the photographer says; groups that fall below two frames by it are dropped."""
    with transaction.atomic():
        made = Group.objects.create(outing=outing, kind=kind, by_hand=True)
        Frame.objects.filter(pk__in=[f.pk for f in frames]).update(group=made)
        for group in outing.groups.exclude(pk=made.pk):
            if group.frames.count() < (1 if group.kind == "none" else 2):
                group.delete()
