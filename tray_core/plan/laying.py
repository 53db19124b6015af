"""Laying out: from what the stations say to the layout of each rendition, with what lies around it."""

from __future__ import annotations

import functools
import math
from collections.abc import Callable, Sequence
from dataclasses import replace
from fractions import Fraction

from tray_core.outline import Traced
from tray_core.photo.interest import Interest
from tray_core.plan.borders import Ring, reshaped, rings_around, rings_inside, thinned, total
from tray_core.plan.framing import Framing, Rect, chosen_framing, fitted
from tray_core.plan.geometry import MAX_AREA, Measured, half_up, limit_of, measure, orientation
from tray_core.plan.interest import best_start
from tray_core.plan.layout import Layout
from tray_core.plan.objects import framing_around
from tray_core.recipe.cutout import Cutout
from tray_core.recipe.finish import Finish
from tray_core.recipe.frame import BoundsFrame, Frame, PadFrame, StretchFrame, parse_pixels, parse_ratio
from tray_core.recipe.size import ExactSize, OwnSize, Size

Make = Callable[..., tuple[Layout, Fraction]]

_PLACES = {"left": 0.0, "top": 0.0, "right": 1.0, "bottom": 1.0}


def layouts(
    source: tuple[int, int],
    frame: Frame | None,
    size: Size | None,
    framings: Sequence[Framing] = (),
    interest: Interest | None = None,
    recipe: int | None = None,
    finish: Finish | None = None,
    cutout: Cutout | None = None,
    outline: Traced | None = None,
) -> tuple[Layout, ...]:
    """The layouts of a photo by the frame and size stations: one, or one a width of a responsive set.

    source: (width, height) of the upright photo. framings: of the photo, those chosen last first.
    interest: the photo's, where it is known; without it the middle is taken. recipe: what framings may
    be tied to. finish: whose borders lie around it, and whose proof limits its size. cutout: which may
    have what nobody framed lie around its object, and gives it another ground. outline: of that object.
    """
    framing = followed_framing(source, frame, size, framings, recipe)
    if cutout is not None and cutout.fit != "no" and outline is not None and framing is None:
        ratio = _ratio_wanted(source, frame, size)
        framing = framing_around(outline, source, cutout, float(ratio) if ratio else None)
    if getattr(frame, "anchor", "") != "interest" or framing is not None:
        interest = None
    found = _layouts(source, frame, size, framing, interest, finish)
    if cutout is None:
        return found
    fill = {"keep": found[0].fill, "clear": "transparent"}.get(cutout.ground, cutout.ground)
    return tuple(replace(layout, fill=fill) for layout in found)


def followed_framing(
    source: tuple[int, int],
    frame: Frame | None,
    size: Size | None,
    framings: Sequence[Framing],
    recipe: int | None = None,
) -> Framing | None:
    """Which of a photo's framings its layout follows, if any; the arguments are those of `layouts`."""
    if not framings or isinstance(frame, StretchFrame):
        return None
    ratio = _ratio_wanted(source, frame, size)
    return chosen_framing(framings, source, float(ratio) if ratio else None, recipe)


@functools.lru_cache(maxsize=16384)
def _layouts(
    source: tuple[int, int],
    frame: Frame | None,
    size: Size | None,
    framing: Framing | None,
    interest: Interest | None,
    finish: Finish | None,
) -> tuple[Layout, ...]:
    def made_at(width: int | None) -> Layout:
        make = functools.partial(_layout, source, frame, size, framing, interest, width)
        if finish is None:
            return make()[0]
        shaped = _ratio_wanted(source, frame, size) is not None
        return _limited(_bordered(make, finish, frame, shaped) if finish.borders else make()[0], finish)

    widths = getattr(size, "widths", None)
    if widths is None:
        return (made_at(None),)
    made = [made_at(width) for width in sorted(widths)]
    # Widths beyond the photo's own all end at its own size: that picture is made once.
    return tuple({layout.canvas: layout for layout in made}.values())


def _bordered(make: Make, finish: Finish, frame: Frame | None, shaped: bool) -> Layout:
    """A layout with its borders. make: the layout without, around which so much of the photo's scale may lie."""
    layout, scale = make()
    if finish.grow:
        rings = thinned(rings_around(finish, layout.canvas, min(layout.canvas)), layout.canvas, grow=True)
        return replace(layout, rings=rings)
    if shaped or isinstance(frame, StretchFrame):
        rings = rings_inside(finish, layout.canvas)
        across, down = total(rings)
        inner = replace(layout, canvas=(layout.canvas[0] - across, layout.canvas[1] - down), rings=rings)
        if isinstance(frame, StretchFrame):
            return inner
        pads = isinstance(frame, PadFrame) or (isinstance(frame, BoundsFrame) and frame.outside == "pad")
        return replace(inner, rect=reshaped(layout.rect, inner.upright_canvas, pads and not layout.framing))
    return _around_its_shape(make, finish, layout, scale)


def _around_its_shape(make: Make, finish: Finish, layout: Layout, scale: Fraction) -> Layout:
    """Borders around a photo that keeps its shape: how thick they are hangs on the size, and the size on what they
    add to the shape. scale: of the layout without any. Found by the secant method, then settled to whole pixels.
    """
    edges = layout.rect[2:] if layout.turn not in (90, 270) else layout.rect[:1:-1]
    room = max(layout.canvas), max(layout.canvas)

    def rings_at(scale: Fraction) -> tuple[Ring, ...]:
        inside = half_up(Fraction(edges[0]) * scale), half_up(Fraction(edges[1]) * scale)
        outer = inside
        rings: tuple[Ring, ...] = ()
        for _ in range(8):
            rings = thinned(rings_around(finish, inside, min(outer)), room)
            added = total(rings)
            outer = inside[0] + added[0], inside[1] + added[1]
        return rings

    def off(scale: Fraction) -> Fraction:
        across, down = total(rings_at(scale))
        return make(around=(across / scale, down / scale))[1].limit_denominator(10**9) - scale

    # With borders of no thickness the scale is the plain one; with any it is less.
    tried = [(scale, off(scale))]
    for _ in range(12):
        last, gap = tried[-1]
        if abs(gap) * max(layout.canvas) <= last / 2:
            break
        before, gap_before = tried[-2] if len(tried) > 1 else (last + gap, off(last + gap))
        step = -gap * (last - before) / (gap - gap_before) if gap != gap_before else gap
        near = max(last + step, last / 4).limit_denominator(10**9)
        tried.append((near, off(near)))
    best = min(tried, key=lambda each: abs(each[1]))[0]
    rings = rings_at(best)
    layout = _settled(make, total(rings), best)
    across, down = total(rings)
    return replace(layout, canvas=(max(1, layout.canvas[0] - across), max(1, layout.canvas[1] - down)), rings=rings)


def _settled(make: Make, beside: tuple[int, int], scale: Fraction) -> Layout:
    """The layout around which `beside` pixels lie.

    They are so many pixels of the photo as the scale says, and the scale follows from the photo with them: one over
    the scale is a linear function of one over the scale before, so that two steps tell where it settles.
    """
    for _ in range(4):
        steps = [scale]
        for _ in range(2):
            layout, found = make(around=(beside[0] / steps[-1], beside[1] / steps[-1]))
            steps.append(found.limit_denominator(10**9))
        one, two, three = (1 / each for each in steps)
        slope = (three - two) / (two - one) if two != one else Fraction(0)
        scale = 1 / (two + (three - two) / (1 - slope)) if slope < 1 else steps[-1]
        scale = scale.limit_denominator(10**9)
        layout, found = make(around=(beside[0] / scale, beside[1] / scale))
        if abs(found - scale) * max(layout.canvas) < scale / 1000:
            break
    return layout


def _limited(layout: Layout, finish: Finish) -> Layout:
    """A proof is no larger than it says."""
    longest = finish.proof.longest if finish.proof is not None else "any"
    if longest == "any" or max(layout.outer) <= longest:
        return layout
    return layout.scaled(longest / max(layout.outer))


@functools.lru_cache(maxsize=16384)
def _exact(source: tuple[int, int], frame: Frame | None, size: Size | None) -> tuple[int, int] | None:
    """The exact pixels of one panel, where the recipe gives them."""
    if isinstance(size, ExactSize):
        values = size.for_shape(orientation(*source))
        return values["width"], values["height"]
    shape = getattr(frame, "shape", None)
    return parse_pixels(shape) if shape and (size is None or isinstance(size, OwnSize)) else None


@functools.lru_cache(maxsize=16384)
def _ratio_wanted(source: tuple[int, int], frame: Frame | None, size: Size | None) -> Fraction | None:
    """Width over height of the whole canvas, None where the photo keeps its shape."""
    if frame is None:
        return None
    columns, rows = frame.split
    if (exact := _exact(source, frame, size)) is not None:
        width, height = Fraction(exact[0]), Fraction(exact[1])
    elif isinstance(frame, BoundsFrame):
        own = Fraction(source[0] * rows, source[1] * columns)
        low, high = (Fraction(a) / b for a, b in map(parse_ratio, (frame.narrowest, frame.widest)))
        if low <= own <= high:
            return None
        width, height = min(max(own, low), high), Fraction(1)
    elif shape := getattr(frame, "shape", None):
        pixels = parse_pixels(shape)
        width, height = (Fraction(pixels[0]), Fraction(pixels[1])) if pixels else parse_ratio(shape)
    else:
        return None
    return width * columns / (height * rows)


def _layout(
    source: tuple[int, int],
    frame: Frame | None,
    size: Size | None,
    framing: Framing | None,
    interest: Interest | None,
    asked_width: int | None = None,
    around: tuple[Fraction, Fraction] = (Fraction(0), Fraction(0)),
) -> tuple[Layout, Fraction]:
    """One layout, and its scale before it is rounded to whole pixels.

    around: what lies beside a photo that keeps its shape, in its own pixels, of which the canvas is, too.
    """
    columns, rows = frame.split if frame else (1, 1)
    ratio = _ratio_wanted(source, frame, size)
    exact = _exact(source, frame, size)
    turn = framing.turn if framing else 0
    pads = isinstance(frame, PadFrame) or (isinstance(frame, BoundsFrame) and frame.outside == "pad")
    # The natural size: the canvas in pixels of the photo, as exact numbers where no hand drew it.
    natural: tuple[Fraction, Fraction]
    if framing is not None:
        rect = framing.rect(source)
        if ratio is not None:
            rect = fitted(rect, float(1 / ratio if turn in (90, 270) else ratio))
        across, down = (rect[3], rect[2]) if turn in (90, 270) else (rect[2], rect[3])
        natural = (Fraction(down) * ratio, Fraction(down)) if ratio is not None else (Fraction(across), Fraction(down))
    elif ratio is None:
        natural = Fraction(source[0]), Fraction(source[1])
    else:
        wider = ratio * source[1] >= source[0]
        # A crop lies inside the photo, padding around it; one of the two edges is always shared.
        if wider == pads:
            natural = ratio * source[1], Fraction(source[1])
        else:
            natural = Fraction(source[0]), source[0] / ratio
    limit, cuts = limit_of(size, *natural), False
    if exact is not None:
        canvas, wanted, natural = _exact_canvas(exact, (columns, rows), natural, limit, pads and framing is None)
        own, scale = False, wanted
    else:
        whole = natural[0] + around[0], natural[1] + around[1]
        found = measure(whole[0] / columns, whole[1] / rows, size, orientation(*source), limit, asked_width)
        canvas, own = _canvas(found, whole, (columns, rows), None if ratio is None else pads)
        wanted, scale = found.wanted, found.scale
    if framing is None:
        if isinstance(frame, StretchFrame) or ratio is None:
            rect = (0.0, 0.0, float(source[0]), float(source[1]))
        else:
            rect, cuts = _placed(source, natural, canvas if own else None, getattr(frame, "anchor", "middle"), interest)
    elif own:
        # Its own size: whole pixels are copied, none is computed anew.
        edges = [edge - int(beside) for edge, beside in zip(canvas, around, strict=True)]
        if turn in (90, 270):
            edges.reverse()
        rect = (float(round(rect[0])), float(round(rect[1])), float(edges[0]), float(edges[1]))
    asks = framing is None and ratio is not None and (cuts or getattr(frame, "anchor", "") == "ask")
    layout = Layout(
        source=source,
        rect=rect,
        canvas=canvas,
        columns=columns,
        rows=rows,
        angle=framing.angle if framing else 0.0,
        turn=turn,
        fill=frame.fill if frame else "#ffffff",
        wanted=float(wanted),
        asks=asks,
        framing=framing.name if framing else None,
    )
    left, top, right, bottom = layout.box
    cut = 1 - (right - left) * (bottom - top) / (source[0] * source[1])
    return _with_cut(layout, max(0.0, cut)), scale


def _with_cut(layout: Layout, cut: float) -> Layout:
    return Layout(**{**layout.to_json(), "cut": cut}) if cut > 1e-9 else layout


def _canvas(
    found: Measured, natural: tuple[Fraction, Fraction], split: tuple[int, int], pads: bool | None
) -> tuple[tuple[int, int], bool]:
    """The whole canvas from one measured panel, and whether it is the picture's own size, unscaled.

    pads: whether a shape is padded or cropped to; None where the photo keeps its own.
    """
    if found.scale != 1:
        return (found.width * split[0], found.height * split[1]), False
    if pads is None:
        # No pixel is lost and none computed anew: panels differ by a pixel at most.
        return (max(half_up(natural[0]), split[0]), max(half_up(natural[1]), split[1])), True
    # All panels are equal: a crop gives up what is left over, padding adds it.
    edges = []
    for length, count in zip(natural, split, strict=True):
        panel = (math.ceil(length / count) if pads else math.floor(length / count)) if count > 1 else half_up(length)
        edges.append(max(1, panel) * count)
    return (edges[0], edges[1]), True


def _exact_canvas(
    exact: tuple[int, int], split: tuple[int, int], natural: tuple[Fraction, Fraction], limit: Fraction, pads: bool
) -> tuple[tuple[int, int], Fraction, tuple[Fraction, Fraction]]:
    """Exact panels: (canvas, scale wanted, natural size).

    Padding always reaches the exact size: a picture that may not be enlarged lies smaller in it. A crop
    that may not be enlarged becomes smaller in the same shape.
    """
    whole = (exact[0] * split[0], exact[1] * split[1])
    possible = min(Fraction(1), Fraction(MAX_AREA, whole[0] * whole[1]))
    if possible < 1:
        whole = (int(whole[0] * possible) or 1, int(whole[1] * possible) or 1)
    wanted = max(Fraction(whole[0]) / natural[0], Fraction(whole[1]) / natural[1])
    if wanted <= limit:
        return whole, wanted, natural
    if pads:
        return whole, wanted, (whole[0] / limit, whole[1] / limit)
    part = limit / wanted
    panel = (half_up(exact[0] * part), half_up(exact[1] * part))
    return (panel[0] * split[0], panel[1] * split[1]), wanted, natural


def _placed(
    source: tuple[int, int],
    natural: tuple[Fraction, Fraction],
    whole: tuple[int, int] | None,
    anchor: str,
    interest: Interest | None,
) -> tuple[Rect, bool]:
    """Place a rectangle of `natural` size by its anchor; `whole` pixels where nothing is scaled.

    The second value says whether it cuts what should stay whole, so that an eye is needed.
    """
    sides = [float(whole[i] if whole else natural[i]) for i in (0, 1)]
    starts, cuts = [], False
    for axis in (0, 1):
        room = source[axis] - sides[axis]
        if anchor == "interest" and interest is not None and room > 0:
            found = best_start(interest, axis, round(sides[axis] / source[axis], 6))
            start, cuts = found.at * source[axis], cuts or found.cuts
        else:
            words = anchor.split("-")
            names = ("left", "right") if axis == 0 else ("top", "bottom")
            at = next((_PLACES[word] for word in words if word in names), 0.5)
            start = room * at
        if whole:
            start = float(int(start)) if start >= 0 else -float(int(-start))
        starts.append(min(start, room) if room > 0 else start)
    return (starts[0], starts[1], sides[0], sides[1]), cuts
