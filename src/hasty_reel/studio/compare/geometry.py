"""Where things lie: the picture in the widget, the wipe line across it, the line of the time slice. No Qt widgets here."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

MARGIN = 12
LEAST_ZOOM, MOST_ZOOM = 1 / 16, 32.0


@dataclass(frozen=True)
class Sight:
    """How much of a picture is looked at.

    zoom : screen pixels a pixel of the picture; 0: all of it fits
    x, y : the place of the picture in the middle of the widget, as shares of its size
    """

    zoom: float = 0.0
    x: float = 0.5
    y: float = 0.5


@dataclass(frozen=True)
class Placed:
    """A picture in a widget: its rectangle in widget pixels and the scale it is shown at."""

    left: float
    top: float
    width: float
    height: float
    scale: float

    def to_picture(self, x: float, y: float) -> tuple[float, float]:
        """Return a place of the widget as a share of the picture.

        Parameters
        ----------
        x, y : in pixels of the widget

        Returns
        -------
        u, v : float
            Shares of width and height, 0 to 1 within the picture.
        """
        return (x - self.left) / self.width, (y - self.top) / self.height

    def to_widget(self, u: float, v: float) -> tuple[float, float]:
        """Return a share of the picture as a place of the widget.

        Parameters
        ----------
        u, v : shares of the picture, 0 at the left and top

        Returns
        -------
        x, y : float
            Pixels of the widget.
        """
        return self.left + u * self.width, self.top + v * self.height


def placed(sight: Sight, picture: tuple[int, int], area: tuple[float, float, float, float]) -> Placed:
    """Return where a picture (width, height) lies in an area (left, top, width, height).

    Parameters
    ----------
    sight : how much of the picture is looked at
    picture : width and height in pixels
    area : left, top, width, height of the room for it, in pixels
    """
    w, h = picture
    left, top, wide, high = area
    fit = min((wide - 2 * MARGIN) / w, (high - 2 * MARGIN) / h)
    fit = float(max(1, int(fit))) if fit >= 1 else max(fit, 1e-3)
    scale = sight.zoom or fit
    shown_w, shown_h = w * scale, h * scale
    if not sight.zoom:
        return Placed(round(left + (wide - shown_w) / 2), round(top + (high - shown_h) / 2), shown_w, shown_h, scale)
    return Placed(round(left + wide / 2 - sight.x * shown_w), round(top + high / 2 - sight.y * shown_h), shown_w, shown_h, scale)


def zoomed(sight: Sight, now: Placed, factor: float, x: float, y: float, area: tuple[float, float, float, float]) -> Sight:
    """Nearer or further, with the place under the pointer held; from 1:1 on in whole steps.

    Parameters
    ----------
    sight : how much of the picture is looked at
    now : where the picture lies
    factor : by which the scale grows
    x, y : in pixels of the widget
    area : left, top, width, height of the room for it, in pixels
    """
    scale = now.scale * factor
    if scale > 1:
        scale = float(math.floor(scale + 0.5)) if factor > 1 else float(math.ceil(scale - 0.5))
        scale = max(scale, math.floor(now.scale) + 1.0) if factor > 1 else scale
    scale = min(max(scale, LEAST_ZOOM), MOST_ZOOM)
    u, v = now.to_picture(x, y)
    left, top, wide, high = area
    width, height = now.width / now.scale * scale, now.height / now.scale * scale
    return held(Sight(scale, u - (x - left - wide / 2) / width, v - (y - top - high / 2) / height))


def panned(sight: Sight, now: Placed, dx: float, dy: float) -> Sight:
    """Moved by widget pixels; a picture that fits is first taken at the scale it has.

    Parameters
    ----------
    sight : how much of the picture is looked at
    now : where the picture lies
    dx, dy : pixels of the widget
    """
    base = sight if sight.zoom else Sight(now.scale)
    return held(replace(base, x=base.x - dx / now.width, y=base.y - dy / now.height))


def held(sight: Sight) -> Sight:
    """Some of the picture stays in sight.

    Parameters
    ----------
    sight : how much of the picture is looked at
    """
    return replace(sight, x=min(max(sight.x, 0.0), 1.0), y=min(max(sight.y, 0.0), 1.0))


@dataclass(frozen=True)
class Wipe:
    """A line across the picture: through (x, y), shares of its size, at `angle` degrees from upright; A lies left of it."""

    x: float = 0.5
    y: float = 0.5
    angle: float = 0.0

    def moved(self, x: float, y: float) -> Wipe:
        """Through another place.

        Parameters
        ----------
        x, y : in pixels of the widget
        """
        return replace(self, x=min(max(x, 0.0), 1.0), y=min(max(y, 0.0), 1.0))

    def turned(self, degrees: float) -> Wipe:
        """At another angle, kept within a whole turn; upright and level within two degrees.

        Parameters
        ----------
        degrees : of the angle
        """
        angle = (degrees + 180.0) % 360.0 - 180.0
        for straight in (-180.0, -90.0, 0.0, 90.0, 180.0):
            if abs(angle - straight) < 2.0:
                angle = straight
        return replace(self, angle=angle)

    def ends(self, place: Placed) -> tuple[tuple[float, float], tuple[float, float]]:
        """Two places far outside the picture on the line, in widget pixels.

        Parameters
        ----------
        place : where the picture lies

        Returns
        -------
        first, second : tuple of float
            x and y in pixels of the widget.
        """
        cx, cy = place.to_widget(self.x, self.y)
        a = math.radians(self.angle)
        reach = 2.0 * (place.width + place.height)
        return (cx + reach * math.sin(a), cy - reach * math.cos(a)), (cx - reach * math.sin(a), cy + reach * math.cos(a))

    def side_of_b(self, place: Placed) -> list[tuple[float, float]]:
        """Corners of the half plane where B is shown, in widget pixels.

        Parameters
        ----------
        place : where the picture lies
        """
        (x0, y0), (x1, y1) = self.ends(place)
        a = math.radians(self.angle)
        reach = 2.0 * (place.width + place.height)
        dx, dy = reach * math.cos(a), reach * math.sin(a)
        return [(x0, y0), (x1, y1), (x1 + dx, y1 + dy), (x0 + dx, y0 + dy)]


@dataclass(frozen=True)
class SliceLine:
    """The line of the time slice, its ends as shares of the picture."""

    x0: float = 0.0
    y0: float = 0.5
    x1: float = 1.0
    y1: float = 0.5

    def moved(self, du: float, dv: float) -> SliceLine:
        """Moved as a whole, kept within the picture.

        Parameters
        ----------
        du, dv : shares of the picture
        """
        du = min(max(du, -min(self.x0, self.x1)), 1.0 - max(self.x0, self.x1))
        dv = min(max(dv, -min(self.y0, self.y1)), 1.0 - max(self.y0, self.y1))
        return SliceLine(self.x0 + du, self.y0 + dv, self.x1 + du, self.y1 + dv)

    def with_end(self, which: int, u: float, v: float) -> SliceLine:
        """One end elsewhere.

        Parameters
        ----------
        which : 0 for the first end, 1 for the second
        u, v : shares of the picture, 0 at the left and top
        """
        u, v = min(max(u, 0.0), 1.0), min(max(v, 0.0), 1.0)
        return replace(self, x0=u, y0=v) if which == 0 else replace(self, x1=u, y1=v)

    def turned(self, degrees: float, aspect: float) -> SliceLine:
        """Turned about its middle; `aspect` is width / height of the picture.

        Parameters
        ----------
        degrees : of the angle
        aspect : width / height of the picture
        """
        cx, cy = (self.x0 + self.x1) / 2, (self.y0 + self.y1) / 2
        a = math.radians(degrees)
        ends = []
        for x, y in ((self.x0, self.y0), (self.x1, self.y1)):
            dx, dy = (x - cx) * aspect, y - cy
            ends.append((cx + (dx * math.cos(a) - dy * math.sin(a)) / aspect, cy + dx * math.sin(a) + dy * math.cos(a)))
        return SliceLine(*ends[0], *ends[1])
