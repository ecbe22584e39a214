"""log2 and exp2 for kernels: polynomials on the bits of float32, relative error at most 2e-5.

There is no vector libm here; these inline into Numba kernels and vectorise.
Coefficients: least-squares-in-the-max-norm fits made for this program (see tests/core).
"""

import numpy as np
from numba import types
from numba.extending import intrinsic

from .compiled import inlined


@intrinsic
def _as_int(typing_context, value):  # type: ignore[no-untyped-def]
    """The bits of a float32 as int32."""

    def generate(context, builder, signature, args):  # type: ignore[no-untyped-def]
        return builder.bitcast(args[0], context.get_value_type(types.int32))

    return types.int32(types.float32), generate


@intrinsic
def _as_float(typing_context, value):  # type: ignore[no-untyped-def]
    """Int32 bits as a float32."""

    def generate(context, builder, signature, args):  # type: ignore[no-untyped-def]
        return builder.bitcast(args[0], context.get_value_type(types.float32))

    return types.float32(types.int32), generate


_L0, _L1, _L2, _L3, _L4, _L5, _L6 = (
    np.float32(c)
    for c in (1.44269643, -0.72136404, 0.48062915, -0.35935065, 0.2956336, -0.26950627, 0.17212873)
)
_E0, _E1, _E2, _E3, _E4 = (
    np.float32(c) for c in (1.0, 0.693121034, 0.2402210736, 0.0559220356, 0.0096760371)
)
_ONE, _HALF = np.float32(1), np.float32(0.5)
_TINY, _LOW, _HIGH = np.float32(1e-30), np.float32(-120), np.float32(120)
_SQRT_HALF_BITS = np.int32(0x3F3504F3)
_ONE_BITS = np.int32(0x3F800000)
_MANTISSA = np.int32(0x007FFFFF)


@inlined
def log2(x):  # type: ignore[no-untyped-def]
    """Base-2 logarithm of a float32; values at or below 1e-30 are taken as 1e-30."""
    bits = _as_int(max(_TINY, np.float32(x)))
    # split so that the mantissa lies in [sqrt(1/2), sqrt(2))
    shifted = np.int32(bits + (_ONE_BITS - _SQRT_HALF_BITS))
    exponent = np.int32((shifted >> np.int32(23)) - np.int32(127))
    t = _as_float(np.int32((shifted & _MANTISSA) + _SQRT_HALF_BITS)) - _ONE
    poly = _L6
    poly = poly * t + _L5
    poly = poly * t + _L4
    poly = poly * t + _L3
    poly = poly * t + _L2
    poly = poly * t + _L1
    poly = poly * t + _L0
    return np.float32(np.float32(exponent) + t * poly)


_BIAS, _PER_OCTAVE = np.int32(127), np.float32(2.0**-23)


@inlined
def octave_place(x, low):  # type: ignore[no-untyped-def]
    """Where a float32 lies above 2^low, in octaves, each of them divided evenly: the float's own bits, so that a
    table over light is looked up without a logarithm. Nothing and less lie far below; −0, whose bits are no small number, too."""
    start = np.int32((low + _BIAS) << np.int32(23))
    return np.float32(np.int32(_as_int(max(_TINY, x)) - start)) * _PER_OCTAVE


@inlined
def exp2(x):  # type: ignore[no-untyped-def]
    """2 to the power of a float32, clamped to [-120, 120]."""
    x = min(max(_LOW, np.float32(x)), _HIGH)
    shifted = x + _HALF
    whole = np.int32(shifted)
    whole = np.int32(whole - np.int32(shifted < np.float32(whole)))
    t = x - np.float32(whole)
    poly = _E4
    poly = poly * t + _E3
    poly = poly * t + _E2
    poly = poly * t + _E1
    poly = poly * t + _E0
    return np.float32(poly * _as_float(np.int32((whole + np.int32(127)) << np.int32(23))))


_THIRD_OF_BITS, _CBRT_BITS = np.float32(1 / 3), np.float32(709921077)
_CBRT_TINY = np.float32(1e-30)
_R0, _R1, _R2, _R3, _R4 = (
    np.float32(c) for c in (1.00000001, 0.33333277, -0.111124982, 0.0620056283, -0.0391596723)
)


@inlined
def cbrt(x):  # type: ignore[no-untyped-def]
    """Cube root of a float32, to its last bits: a third of its bits is within 4 %, and the cube root of what is
    left over is a polynomial. Sizes under 1e-30 are taken as 1e-30."""
    held = max(_CBRT_TINY, abs(x))
    r = _as_float(np.int32(np.float32(_as_int(held)) * _THIRD_OF_BITS + _CBRT_BITS))
    over = held / (r * r * r) - _ONE
    poly = _R4
    poly = poly * over + _R3
    poly = poly * over + _R2
    poly = poly * over + _R1
    poly = poly * over + _R0
    r = r * poly
    return r if x > np.float32(0) else -r


_C1, _C2, _C3, _C4, _C5, _C6 = (np.float32(c) for c in (-1 / 2, 1 / 24, -1 / 720, 1 / 40320, -1 / 3628800, 1 / 479001600))  # fmt: skip
_S1, _S2, _S3, _S4, _S5, _S6 = (np.float32(c) for c in (-1 / 6, 1 / 120, -1 / 5040, 1 / 362880, -1 / 39916800, 1 / 6227020800))  # fmt: skip
_PI, _HALF_PI = np.float32(np.pi), np.float32(np.pi / 2)
_A0, _A1, _A2, _A3, _A4, _A5 = (
    np.float32(c) for c in (0.99997726, -0.33262347, 0.19354346, -0.11643287, 0.05265332, -0.01172120)
)


@inlined
def cos_sin(x):  # type: ignore[no-untyped-def]
    """Cosine and sine of an angle, clamped to [−π, π]; within 1e-4. Taylor's series, which vectorise."""
    x = min(max(-_PI, x), _PI)
    q = x * x
    cos = _ONE + q * (_C1 + q * (_C2 + q * (_C3 + q * (_C4 + q * (_C5 + q * _C6)))))
    sin = x * (_ONE + q * (_S1 + q * (_S2 + q * (_S3 + q * (_S4 + q * (_S5 + q * _S6))))))
    return cos, sin


@inlined
def angle(y, x):  # type: ignore[no-untyped-def]
    """The angle of (x, y), radians, within 2e-5; 0 of nothing."""
    big, small = max(abs(x), abs(y)), min(abs(x), abs(y))
    t = small / max(big, _TINY)
    q = t * t
    found = t * (_A0 + q * (_A1 + q * (_A2 + q * (_A3 + q * (_A4 + q * _A5)))))
    found = found if abs(x) >= abs(y) else _HALF_PI - found
    found = found if x >= np.float32(0) else _PI - found
    return found if y >= np.float32(0) else -found


@inlined
def smooth(t):  # type: ignore[no-untyped-def]
    """3t² − 2t³ on [0, 1], flat outside."""
    t = min(max(np.float32(0), t), _ONE)
    return t * t * (np.float32(3) - t - t)


_HALF_SHIFT = np.int32(0x38000000)
_HALF_SMALL = np.float32(2.0**-14)
_HALF_STEP = np.float32(2.0**24)
_HALF_TOP = np.float32(65504)


@inlined
def half_bits(x):  # type: ignore[no-untyped-def]
    """The bits of a float32 as IEEE half, rounded to nearest even; finite, clamped to ±65504."""
    size = min(_HALF_TOP, abs(x))
    bits = _as_int(size)
    normal = (bits - _HALF_SHIFT + np.int32(0xFFF) + ((bits >> np.int32(13)) & np.int32(1))) >> np.int32(13)
    small = np.int32(size * _HALF_STEP + _HALF)
    held = small if size < _HALF_SMALL else normal
    sign = np.int32(0x8000) if x < np.float32(0) else np.int32(0)
    return np.uint16(held | sign)


_HALF_SCALE = np.float32(2.0**112)


@inlined
def half_value(bits):  # type: ignore[no-untyped-def]
    """The value of a finite IEEE half given by its bits."""
    size = _as_float(np.int32((np.int32(bits) & np.int32(0x7FFF)) << np.int32(13))) * _HALF_SCALE
    return -size if np.int32(bits) & np.int32(0x8000) else size
