"""Names of outings, frames and scenes."""

from django.http import Http404, HttpRequest
from ninja import Router, Schema

from sunlatch.errors import SunLatchError

from .removal import KINDS, What

router = Router(tags=["naming"])
LONGEST = 200


class UnnamedError(SunLatchError):
    """A name that cannot be given."""


class Naming(Schema):
    """What is to be called something else."""

    what: What
    id: str
    name: str


class Named(Naming):
    """What it is called now, and what it was called before."""

    before: str


def plain_name(name: str, otherwise: str = "") -> str:
    """A name as it can be given. Raises UnnamedError for none, where there is nothing it is called otherwise."""
    plain = (
        " ".join("".join(c if c.isprintable() else " " for c in name).split())[:LONGEST].strip() or otherwise
    )
    if not plain:
        raise UnnamedError("A name needs a letter at least.")
    return plain


@router.post("/names", response=Named)
def rename(request: HttpRequest, given: Naming) -> Named:
    """Call an outing, a frame or a scene something else. Of a frame it is what it is called here; its file is never
    touched."""
    thing = KINDS[given.what].objects.of(request.user).filter(pk=given.id).first()
    if thing is None or not hasattr(thing, "name"):
        raise Http404
    before, thing.name = thing.name, plain_name(given.name)
    thing.save(update_fields=["name"])
    return Named(what=given.what, id=thing.pk, name=thing.name, before=before)
