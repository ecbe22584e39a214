"""Planes that a move learned of the whole picture, looked up along a row of any view."""

from typing import Any

import numpy as np
from llvmlite import ir
from numba import types
from numba.extending import intrinsic

from ..compiled import FAST, part

_FOUR = ir.VectorType(ir.FloatType(), 4)
_FAST = sorted(FAST)
_ZERO, _HALF, _ONE = np.float32(0), np.float32(0.5), np.float32(1)


@part
def columns(place, w, at, between):  # type: ignore[no-untyped-def]
    """For the px of a row, the column of a plane w wide to their left, and how far they lie beyond it: at and
    between (width,). The same for every row and every plane, so found once."""
    x0, step, last = place[0] * np.float32(w) - _HALF, place[2] * np.float32(w), np.float32(w - 1.001)
    for c in range(at.size):
        gx = min(max(_ZERO, x0 + np.float32(c) * step), last)
        at[c] = np.uint32(gx)
        between[c] = gx - np.float32(at[c])


@part
def row_sampled(plane, place, r, at, between, pair, held, out):  # type: ignore[no-untyped-def]
    """A plane (h, w) of the canvas, bilinear, along row r of a band: out (width,). pair (2, width): the plane's two
    rows on either side, drawn out to the width of the view; held (2,): which they are, −1 for none yet. Looking up
    is slow and rows of a view lie closer than those of the plane, so what was drawn out serves the next row too."""
    h = plane.shape[0]
    gy = min(max(_ZERO, (place[1] + np.float32(r) * place[3]) * np.float32(h) - _HALF), np.float32(h - 1.001))
    y = int(gy)
    for n in range(y, y + 2):
        drawn = pair[n & 1]
        if held[n & 1] != n:
            held[n & 1] = n
            row = plane[n]
            for c in range(drawn.size):
                x = at[c]
                drawn[c] = row[x] + (row[x + np.uint32(1)] - row[x]) * between[c]
    above, below, f = pair[y & 1], pair[(y + 1) & 1], gy - np.float32(y)
    for c in range(out.size):
        out[c] = above[c] + (below[c] - above[c]) * f


@intrinsic
def quad(typing_context, planes, left, right, along, over):  # type: ignore[no-untyped-def]
    """From a flat float32 array of pairs: the pair at `left` and the one after it, those at `right`, between them
    by `along` and then by `over` (0–1), as (first, second) of the pair. Four values lie side by side, so they are
    read in one go: LLVM finds this for itself in no loop."""

    def generate(context, builder, signature, args):  # type: ignore[no-untyped-def]
        data = context.make_array(signature.args[0])(context, builder, args[0]).data
        nothing = ir.Constant(_FOUR, ir.Undefined)

        def spread(value: Any, n: int) -> Any:
            one = builder.insert_element(nothing, value, ir.Constant(ir.IntType(32), 0))
            lanes = ir.Constant(ir.VectorType(ir.IntType(32), n), [0] * n)
            return builder.shuffle_vector(one, nothing, lanes)

        def between(a: Any, b: Any, share: Any) -> Any:
            way = builder.fmul(builder.fsub(b, a, flags=_FAST), share, flags=_FAST)
            return builder.fadd(a, way, flags=_FAST)

        def read(index: Any) -> Any:
            return builder.load(builder.bitcast(builder.gep(data, [index]), _FOUR.as_pointer()), align=4)

        def half(of: Any, first: int) -> Any:
            lanes = ir.Constant(ir.VectorType(ir.IntType(32), 2), [first, first + 1])
            return builder.shuffle_vector(of, nothing, lanes)

        row = between(read(args[1]), read(args[2]), spread(args[3], 4))
        pair = between(half(row, 0), half(row, 2), spread(args[4], 2))
        both = [builder.extract_element(pair, ir.Constant(ir.IntType(32), n)) for n in range(2)]
        return context.make_tuple(builder, signature.return_type, both)

    f4, index = types.float32, types.intp
    return types.UniTuple(f4, 2)(planes, index, index, f4, f4), generate


@intrinsic
def add_quad(typing_context, planes, at, value, over, weight):  # type: ignore[no-untyped-def]
    """Add to a flat float32 array of pairs (sum of values, sum of weights): `weight` of `value` to the pair at `at`
    and the one after it, shared by `over` (0–1), in one go."""

    def generate(context, builder, signature, args):  # type: ignore[no-untyped-def]
        data = context.make_array(signature.args[0])(context, builder, args[0]).data
        _, index, of, share, much = args
        place = builder.bitcast(builder.gep(data, [index]), _FOUR.as_pointer())
        second = builder.fmul(share, much, flags=_FAST)
        first = builder.fsub(much, second, flags=_FAST)
        both = (builder.fmul(first, of), first, builder.fmul(second, of), second)
        more = ir.Constant(_FOUR, ir.Undefined)
        for n, part_of in enumerate(both):
            more = builder.insert_element(more, part_of, ir.Constant(ir.IntType(32), n))
        builder.store(builder.fadd(builder.load(place, align=4), more, flags=_FAST), place, align=4)
        return context.get_dummy_value()

    f4, index = types.float32, types.intp
    return types.void(planes, index, f4, f4, f4), generate
