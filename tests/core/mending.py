"""What tests of repairs share."""

from sunlatch.ledger import Scene, Source
from sunlatch.mend import Mended
from sunlatch.render import Engine, picture_8

WIDE = 3000
"""Px of a long edge at which things are taken out against the world without them."""


def shown(raster, repairs, blobs, view=None, engine=None):
    engine = engine or Engine(threads=2, blobs=blobs)
    development = engine.develop(Scene(sources=[Source(sha256="0" * 64)], repairs=repairs), raster)
    return picture_8(development, view or development.geometry.fit(WIDE), True)


def keep_all():
    held = {}

    def keep(key, make):
        if key not in held:
            held[key] = make()
        return held[key]

    keep.held = held
    return keep


def under(coast, repairs, blobs):
    return Mended(coast.pyramid, Scene(sources=[Source(sha256="0" * 64)], repairs=repairs), keep_all(), blobs)
