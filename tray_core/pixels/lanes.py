"""Vectors for compiled code: 32 whole numbers of 16 bits, worked on at once and kept in registers.

What Numba makes of a loop over arrays reads and writes its sums for every term; with a type for vectors, sums stay
where they are worked on, and squares of values are transposed by interleaving instead of one by one. The compiler
makes of them what the processor has. After a change here, files that use it must change too (see `compiled`).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import cache
from typing import Any, cast

from llvmlite import ir

from tray_core.pixels.compiled import Late, types

LANES = 32
_I8, _I16, _I32, _I64 = (ir.IntType(bits) for bits in (8, 16, 32, 64))
_VECTOR, _WIDE, _BYTES, _FLOATS = (ir.VectorType(each, LANES) for each in (_I16, _I32, _I8, ir.FloatType()))
_THREE = ir.VectorType(_I8, 3 * LANES)


@cache
def _lanes() -> Any:
    """The type of a vector."""
    from numba.core.datamodel.models import PrimitiveModel
    from numba.extending import register_model

    class Lanes(types.Type):  # type: ignore[misc]  # a class that is found by its name
        def __init__(self) -> None:
            super().__init__(name="lanes")

    @register_model(Lanes)
    class Model(PrimitiveModel):
        def __init__(self, manager: Any, kind: Any) -> None:
            super().__init__(manager, kind, _VECTOR)  # type: ignore[no-untyped-call]

    return Lanes()


Build = Callable[[Any, Any, Any, Any], Any]
"""(Numba's context, instruction builder, signature, arguments) to the value."""


def _operation(typed: Callable[..., tuple[Any, Build]]) -> Callable[..., Any]:
    """typed: takes Numba's typing context and the arguments' types, returns the signature and what builds the value."""

    def make() -> Any:
        from numba.extending import intrinsic

        return intrinsic(typed)

    return cast(Callable[..., Any], Late(make, {}, inside=True))


def _place(context: Any, builder: Any, kind: Any, array: Any, index: Any) -> Any:
    return builder.gep(context.make_array(kind)(context, builder, array).data, [index])


def _read(builder: Any, place: Any, kind: Any = _VECTOR) -> Any:
    return builder.load(builder.bitcast(place, kind.as_pointer()), align=1)


def _write(builder: Any, place: Any, value: Any) -> None:
    builder.store(value, builder.bitcast(place, value.type.as_pointer()), align=1)


def _pick(builder: Any, a: Any, b: Any, lanes: Sequence[int]) -> Any:
    return builder.shuffle_vector(a, b, ir.Constant(_WIDE, list(lanes)))


def _all(builder: Any, value: Any) -> Any:
    none = ir.Constant(_VECTOR, ir.Undefined)
    return _pick(builder, builder.insert_element(none, value, _I32(0)), none, [0] * LANES)


def _clipped(builder: Any, levels: Any) -> Any:
    least, most = (ir.Constant(_VECTOR, [end] * LANES) for end in (0, 255))
    levels = builder.select(builder.icmp_signed("<", levels, least), least, levels)
    return builder.select(builder.icmp_signed(">", levels, most), most, levels)


@_operation
def splat(typing: Any, value: Any) -> tuple[Any, Build]:
    """The same int16 in all lanes."""

    def build(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        return _all(builder, args[0])

    return _lanes()(types.int16), build


@_operation
def load(typing: Any, array: Any, index: Any) -> tuple[Any, Build]:
    """array[index : index + 32], of int16."""

    def build(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        return _read(builder, _place(context, builder, signature.args[0], *args))

    return _lanes()(array, types.uint64), build


@_operation
def load_levels(typing: Any, array: Any, index: Any, bits: Any) -> tuple[Any, Build]:
    """array[index : index + 32], of uint8, times 2**bits."""

    def build(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        levels = _read(builder, _place(context, builder, signature.args[0], *args[:2]), _BYTES)
        return builder.shl(builder.zext(levels, _VECTOR), _all(builder, args[2]))

    return _lanes()(array, types.uint64, types.int16), build


@_operation
def store(typing: Any, array: Any, index: Any, value: Any) -> tuple[Any, Build]:
    """array[index : index + 32] = value."""

    def build(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        _write(builder, _place(context, builder, signature.args[0], *args[:2]), args[2])
        return context.get_dummy_value()

    return types.void(array, types.uint64, _lanes()), build


@_operation
def add_product(typing: Any, sums: Any, value: Any, weight: Any) -> tuple[Any, Build]:
    """sums + the upper 16 bits of value * weight."""

    def build(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        # In this form it becomes the one instruction for upper halves.
        product = builder.mul(builder.sext(args[1], _WIDE), builder.sext(args[2], _WIDE))
        upper = builder.ashr(product, ir.Constant(_WIDE, [16] * LANES))
        return builder.add(args[0], builder.trunc(upper, _VECTOR))

    return _lanes()(_lanes(), _lanes(), _lanes()), build


@_operation
def to_levels(typing: Any, value: Any, bits: Any) -> tuple[Any, Build]:
    """value / 2**bits, rounded down, within 0 and 255."""

    def build(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        levels = builder.ashr(args[0], _all(builder, args[1]))
        return _clipped(builder, levels)

    return _lanes()(_lanes(), types.int16), build


@_operation
def store_luminance(
    typing: Any, pixels: Any, index: Any, r: Any, g: Any, b: Any, out: Any, to: Any
) -> tuple[Any, Build]:
    """out[to : to + 32], of float32 = r, g, b times the channels of 32 pixels of three uint8 from pixels[index] on."""

    def build(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        three = _read(builder, _place(context, builder, signature.args[0], *args[:2]), _THREE)
        terms = []
        for channel, weight in enumerate(args[2:5]):
            mask = ir.Constant(_WIDE, [3 * lane + channel for lane in range(LANES)])
            values = builder.uitofp(builder.shuffle_vector(three, three, mask), _FLOATS)
            one = builder.insert_element(ir.Constant(_FLOATS, ir.Undefined), weight, _I32(0))
            terms.append(builder.fmul(values, builder.shuffle_vector(one, one, ir.Constant(_WIDE, [0] * LANES))))
        luminance = builder.fadd(builder.fadd(terms[0], terms[1]), terms[2])
        _write(builder, _place(context, builder, signature.args[5], *args[5:]), luminance)
        return context.get_dummy_value()

    each = types.float32
    return types.void(pixels, types.uint64, each, each, each, out, types.uint64), build


@_operation
def store_changed(typing: Any, pixels: Any, index: Any, change: Any, at: Any, out: Any) -> tuple[Any, Build]:
    """out[index : index + 96] = 32 pixels of three uint8, each plus its own of the int16 from change[at] on."""

    def build(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        three = _read(builder, _place(context, builder, signature.args[0], *args[:2]), _THREE)
        change = _read(builder, _place(context, builder, signature.args[2], *args[2:4]))
        there = _place(context, builder, signature.args[4], args[4], args[1])
        for part in range(3):
            lanes = [part * LANES + lane for lane in range(LANES)]
            levels = builder.zext(builder.shuffle_vector(three, three, ir.Constant(_WIDE, lanes)), _VECTOR)
            changed = builder.add(levels, _pick(builder, change, change, [lane // 3 for lane in lanes]))
            _write(builder, there, builder.trunc(_clipped(builder, changed), _BYTES))
            there = builder.gep(there, [_I64(LANES)])
        return context.get_dummy_value()

    return types.void(pixels, types.uint64, change, types.uint64, out), build


@_operation
def turn(typing: Any, values: Any, at: Any, stride: Any, out: Any, to: Any) -> tuple[Any, Build]:
    """A square of 32 x 32 int16, rows `stride` apart from values[at] on, into out[to..] column by column."""

    def build(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        here = _place(context, builder, signature.args[0], *args[:2])
        there = _place(context, builder, signature.args[3], *args[3:])
        for column in _transposed(builder, _rows(builder, here, args[2])):
            _write(builder, there, column)
            there = builder.gep(there, [_I64(LANES)])
        return context.get_dummy_value()

    return types.void(values, types.uint64, types.uint64, out, types.uint64), build


@_operation
def turn_levels(typing: Any, values: Any, at: Any, out: Any, to: Any, stride: Any) -> tuple[Any, Build]:
    """The way back: a square of int16, one after the other, into uint8, rows `stride` apart from out[to] on."""

    def build(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        here = _place(context, builder, signature.args[0], *args[:2])
        there = _place(context, builder, signature.args[2], *args[2:4])
        for row in _transposed(builder, _rows(builder, here, _I64(LANES))):
            _write(builder, there, builder.trunc(row, _BYTES))
            there = builder.gep(there, [args[4]])
        return context.get_dummy_value()

    return types.void(values, types.uint64, out, types.uint64, types.uint64), build


@_operation
def prefetch(typing: Any, array: Any, index: Any) -> tuple[Any, Build]:
    """Let the processor fetch what lies around array[index]; it may be read soon."""

    def build(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        from numba.core import cgutils

        place = builder.bitcast(_place(context, builder, signature.args[0], *args), _I8.as_pointer())
        kind = ir.FunctionType(ir.VoidType(), [place.type, _I32, _I32, _I32])
        function = cgutils.get_or_insert_function(  # type: ignore[no-untyped-call]
            builder.module, kind, "llvm.prefetch.p0i8"
        )
        read, near, data = 0, 3, 1
        builder.call(function, [place, _I32(read), _I32(near), _I32(data)])
        return context.get_dummy_value()

    return types.void(array, types.uint64), build


def _rows(builder: Any, place: Any, stride: Any) -> list[Any]:
    rows = []
    for _ in range(LANES):
        rows.append(_read(builder, place))
        place = builder.gep(place, [stride])
    return rows


def _transposed(builder: Any, rows: Sequence[Any]) -> list[Any]:
    """The columns of 32 rows of 32 lanes.

    In three steps, eight rows become the columns of their squares of 8 x 8, by interleaving single, pairs and fours
    of lanes, the way processors do it in one instruction; then squares change places, four at a time.
    """
    for unit in (1, 2, 4):
        rows = [row for top in range(0, LANES, 8) for row in _interleaved(builder, rows[top : top + 8], unit)]
    columns = [rows[0]] * LANES
    for k in range(8):
        a, b, c, d = (rows[8 * square + k] for square in range(4))
        left, right = (0, 1, 4, 5), (2, 3, 6, 7)
        upper = [_pick(builder, a, b, _eights(half)) for half in (left, right)]
        lower = [_pick(builder, c, d, _eights(half)) for half in (left, right)]
        for square in range(4):
            odd = square % 2
            of = upper[square // 2], lower[square // 2]
            columns[8 * square + k] = _pick(builder, *of, _eights((odd, 2 + odd, 4 + odd, 6 + odd)))
    return columns


def _interleaved(builder: Any, eight: Sequence[Any], unit: int) -> list[Any]:
    """Of eight rows, those `unit` apart interleaved by `unit` lanes, within every eighth lane."""
    made = []
    for a in (row for row in range(8) if not row & unit):
        for half in (0, 4):
            starts = [8 * square + half + step for square in range(4) for step in range(0, 4, unit)]
            lanes = [lane + i for at in starts for lane in (at, LANES + at) for i in range(unit)]
            made.append(_pick(builder, eight[a], eight[a + unit], lanes))
    return made


def _eights(numbers: Sequence[int]) -> list[int]:
    return [8 * number + i for number in numbers for i in range(8)]
