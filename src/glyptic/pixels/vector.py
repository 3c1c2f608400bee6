"""Scalar building blocks in float32, written so that a loop over them becomes vector code.

No vector mathematics library comes with Numba, and a call to a scalar one costs ten times the arithmetic around it.
So powers are polynomials here (relative error below 1e-6, tests/pixels/test_tables.py), and everything stays in
float32: one float64 constant in a formula halves its speed, one integer that Numba widens to 64 bits halves it again,
which is what the intrinsics below are for.

The three powers that colour is made of (1/3, 12/5, 5/12) take half the instructions of a logarithm and 2^x. The bits
of a float read as a whole number are nearly its logarithm, so a straight line through them gives g, nearly x^(−1/n);
then x · gⁿ = 1 − r with a small r that is known exactly, and what g lacks is a power of 1 − r: a short polynomial.
"""

from __future__ import annotations

from typing import Any

from llvmlite import ir
from numba import types
from numba.extending import intrinsic
from numpy import float32

from glyptic.pixels.compiled import formula

INT = ir.IntType(32)
FLOAT = ir.FloatType()
MANTISSA_BITS = 23


def _constant(value: int) -> Any:
    return ir.Constant(INT, value)


@intrinsic
def _scaled(typing_context: Any, x: Any, n: Any) -> Any:
    """x · 2^n for a whole n, both float32."""

    def make(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        n = builder.shl(builder.fptosi(arguments[1], INT), _constant(MANTISSA_BITS))
        return builder.bitcast(builder.add(builder.bitcast(arguments[0], INT), n), FLOAT)

    return types.float32(types.float32, types.float32), make


def _rough_power(per: int, middle: float) -> Any:
    """A function that gives x^(-1/per) roughly (r as above at most 0.1 to 0.35), for x >= 0; some large number for 0.
    middle: what centres the error, in bits of the logarithm."""
    rise, start = -1 / per, (1 + 1 / per) * (127 - middle) * (1 << MANTISSA_BITS)

    @intrinsic
    def operation(typing_context: Any, x: Any) -> Any:
        def make(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
            bits = builder.sitofp(builder.bitcast(arguments[0], INT), FLOAT)
            line = builder.fadd(builder.fmul(bits, ir.Constant(FLOAT, rise)), ir.Constant(FLOAT, start))
            return builder.bitcast(builder.fptosi(line, INT), FLOAT)

        return types.float32(types.float32), make

    return operation


_rough_third, _rough_fifth, _rough_twelfth = _rough_power(3, 0.051), _rough_power(5, 0.0515), _rough_power(12, 0.053)


@intrinsic
def _whole(typing_context: Any, x: Any) -> Any:
    """x cut to a whole number, as int32."""

    def make(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        return builder.fptosi(arguments[0], INT)

    return types.int32(types.float32), make


whole: Any = _whole


def _instruction(name: str) -> Any:
    """A function of one float32 the processor has an instruction for."""

    @intrinsic
    def operation(typing_context: Any, x: Any) -> Any:
        def make(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
            return builder.call(builder.module.declare_intrinsic(name, [FLOAT]), [arguments[0]])

        return types.float32(types.float32), make

    return operation


floor = _instruction("llvm.floor")
root = _instruction("llvm.sqrt")
size = _instruction("llvm.fabs")


@formula
def clamp(x: float, low: float, high: float) -> float:
    y = x if x > low else low
    return y if y < high else high


@formula
def clamp01(x: float) -> float:
    return clamp(x, float32(0), float32(1))


E0, E1, E2 = float32(1.0000000754953489), float32(0.6931472067106204), float32(0.24022107355830596)
E3, E4, E5 = float32(0.05550327214209104), float32(0.009676037097864609), float32(0.001340043216540429)
LEAST, MOST = float32(-126), float32(127)
ONE, HALF = float32(1), float32(0.5)


@formula
def exp2(x: float) -> float:
    """2^x; x is held to −126..127."""
    x = clamp(x, LEAST, MOST)
    n = floor(x + HALF)
    z = x - n
    return _scaled(((((E5 * z + E4) * z + E3) * z + E2) * z + E1) * z + E0, n)


# Minimax in the relative error, then scaled by a few units of the last place so that 1 stays 1 and white stays white.
THIRD0, THIRD1, THIRD2 = float32(1.0000001192092896), float32(0.6666522026062012), float32(0.5555362105369568)
THIRD3, THIRD4 = float32(0.49938151240348816), float32(0.4584444761276245)
FIFTH0, FIFTH1, FIFTH2 = float32(1.0000001192092896), float32(0.6000003814697266), float32(0.47989335656166077)
FIFTH3, FIFTH4, FIFTH5 = float32(0.41585978865623474), float32(0.3862111270427704), float32(0.35690271854400635)
TWELFTH0, TWELFTH1, TWELFTH2 = float32(0.9999992847442627), float32(0.5833309292793274), float32(0.4619467556476593)
TWELFTH3, TWELFTH4, TWELFTH5 = float32(0.3979261815547943), float32(0.3504064083099365), float32(0.3187548518180847)
TWELFTH6, TWELFTH7 = float32(0.37901121377944946), float32(0.36880820989608765)


@formula
def cube_root(x: float) -> float:
    """x^(1/3) of x >= 0, within 6e-7 of itself: x · g² · (1 − r)^(−2/3)."""
    g = _rough_third(x)
    q = x * g
    r = ONE - q * (g * g)
    return q * g * ((((THIRD4 * r + THIRD3) * r + THIRD2) * r + THIRD1) * r + THIRD0)


@formula
def power_12_5(x: float) -> float:
    """x^2.4 of x >= 0, within 6e-7 of itself: (x · g)³ · (1 − r)^(−3/5)."""
    g = _rough_fifth(x)
    q, square = x * g, g * g
    r = ONE - q * (square * square)
    p = ((FIFTH5 * r + FIFTH4) * r + FIFTH3) * r + FIFTH2
    return q * q * q * ((p * r + FIFTH1) * r + FIFTH0)


@formula
def power_5_12(x: float) -> float:
    """x^(1/2.4) of x >= 0, within 1e-6 of itself: x · g⁷ · (1 − r)^(−7/12)."""
    g = _rough_twelfth(x)
    sixth = g * g * g
    sixth *= sixth
    r = ONE - x * (sixth * sixth)
    p = ((TWELFTH7 * r + TWELFTH6) * r + TWELFTH5) * r + TWELFTH4
    p = (((p * r + TWELFTH3) * r + TWELFTH2) * r + TWELFTH1) * r + TWELFTH0
    return x * (sixth * g) * p
