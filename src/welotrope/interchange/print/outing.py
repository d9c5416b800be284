"""Cards of an outing on paper that folds to pocket size: panels of a sheet, filled from card to card."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from welotrope.core.plan.outing_cards import Blank, Card, CardBlock, Table, Ticks, Together, Words
from welotrope.core.units.text import keep_units
from welotrope.interchange.print.drawing import Box, Item, Line, Page, Paper, Text
from welotrope.interchange.print.pdf import text_width
from welotrope.interchange.print.sheet import moved

_ACROSS, _DOWN = 4, 2
_LARGE_ACROSS, _LARGE_DOWN = 2, 2
_EDGE, _FOOT = 5.0, 6.0
_TYPE, _SMALL, _BIG, _TITLE = 2.9, 2.5, 3.6, 3.8
_LARGE = 1.5
_LEADING = 1.32
_BOX = 1.05  # of the type's size


@dataclass(frozen=True)
class _BlockRow:
    """A piece of a block that is not parted: how high it is, and what is drawn, from its own top left."""

    height: float
    items: tuple[Item, ...]


def outing_pages(cards: Sequence[Card], paper: Paper, *, large: bool) -> list[Page]:
    """Return pages of panels; a card goes on in the next panel where one is not enough."""
    across, down = (_LARGE_ACROSS, _LARGE_DOWN) if large else (_ACROSS, _DOWN)
    width, height = paper.size_mm
    panel = _Panels(width / across, height / down, _LARGE if large else 1.0)
    drawn = [items for card in cards for items in panel.of(card)]
    pages = []
    for start in range(0, len(drawn), across * down):
        page = Page(width, height)
        page.add(*_folds(width, height, across, down))
        for place, items in enumerate(drawn[start : start + across * down]):
            x, y = place % across * width / across, place // across * height / down
            number = Text(
                x=width / across - _EDGE, y=height / down - 2.5, text=f"{start + place + 1}/{len(drawn)}",
                size=_SMALL * panel.scale,
                anchor="end",
            )  # fmt: skip
            page.add(*(moved(item, x, y) for item in (*items, number)))
        pages.append(page)
    return pages


def _folds(width: float, height: float, across: int, down: int) -> Iterator[Item]:
    for column in range(1, across):
        x = column * width / across
        yield Line(x1=x, y1=0, x2=x, y2=height, dashed=True)
    for row in range(1, down):
        y = row * height / down
        yield Line(x1=0, y1=y, x2=width, y2=y, dashed=True)


class _Panels:
    """Fills panels of a size, mm, with type of a scale."""

    def __init__(self, width: float, height: float, scale: float) -> None:
        self.width, self.height, self.scale = width - 2 * _EDGE, height, scale

    def of(self, card: Card) -> list[list[Item]]:
        """Return the panels of a card, each drawn from its own top left corner."""
        panels: list[list[Item]] = []
        y = self.height
        for row in (row for block in card.blocks for row in self._rows(block)):
            if y + row.height > self.height - _FOOT:
                panels.append([])
                y = self._head(panels[-1], card.title, again=len(panels) > 1)
            panels[-1] += [moved(item, _EDGE, y) for item in row.items]
            y += row.height
        return panels

    def _head(self, items: list[Item], title: str, *, again: bool) -> float:
        y = _EDGE
        for line in _wrapped(title + (", on" if again else ""), _TITLE * self.scale, self.width, bold=True):
            y += _TITLE * self.scale * _LEADING
            items.append(Text(x=_EDGE, y=y, text=line, size=_TITLE * self.scale, anchor="start", bold=True))
        y += 1.2
        items.append(Line(x1=_EDGE, y1=y, x2=_EDGE + self.width, y2=y, width=0.3))
        return y + 1.2

    def _rows(self, block: CardBlock) -> Iterator[_BlockRow]:
        match block:
            case Words(text):
                yield self._words(text, *self._type(block))
            case Together(lines):
                yield self._stacked([self._words(one.text, *self._type(one)) for one in lines])
            case Ticks(lines):
                for text, why in lines:
                    yield self._tick(text, why)
            case Table(head, rows):
                yield from self._table(head, rows)
            case Blank(head, count, first):
                yield from self._blank(head, count, first)

    def _type(self, words: Words) -> tuple[float, bool]:
        return (_BIG if words.big else _TYPE) * self.scale, words.big

    def _stacked(self, rows: Sequence[_BlockRow]) -> _BlockRow:
        y, items = 0.0, []
        for row in rows:
            items += [moved(item, 0, y) for item in row.items]
            y += row.height
        return _BlockRow(y + 1.0, tuple(items))

    def _words(self, text: str, size: float, bold: bool) -> _BlockRow:
        lines = _wrapped(text, size, self.width, bold=bold)
        step = size * _LEADING
        items = tuple(
            Text(x=0, y=step * (index + 1) - step * 0.22, text=line, size=size, anchor="start", bold=bold)
            for index, line in enumerate(lines)
        )
        return _BlockRow(step * len(lines) + 0.8, items)

    def _tick(self, text: str, why: str) -> _BlockRow:
        size = _TYPE * self.scale
        box, left = size * _BOX, size * _BOX + 1.6
        items: list[Item] = [Box(x=0, y=0.6, width=box, height=box, line=0.25)]
        y = 0.0
        for words, height, bold in ((text, size, True), (why, _SMALL * self.scale, False)):
            for line in _wrapped(words, height, self.width - left, bold=bold) if words else ():
                y += height * _LEADING
                items.append(Text(x=left, y=y, text=line, size=height, anchor="start", bold=bold))
        return _BlockRow(max(y, box) + 1.6, tuple(items))

    def _table(self, head: tuple[str, ...], rows: tuple[tuple[str, ...], ...]) -> Iterator[_BlockRow]:
        size = _SMALL * self.scale
        widths = self._columns(head, rows, size)
        yield self._cells(head, widths, size, bold=True)
        for row in rows:
            yield self._cells(row, widths, size, bold=False)

    def _columns(self, head: tuple[str, ...], rows: tuple[tuple[str, ...], ...], size: float) -> list[float]:
        """Share the width out; where it is not enough the first column gives way."""
        needed = [
            max(max((text_width(word, size, bold=True) for word in head[index].split()), default=0.0),
                max((text_width(row[index], size) for row in rows), default=0.0)) + 1.5
            for index in range(len(head))
        ]  # fmt: skip
        spare = self.width - sum(needed)
        if spare >= 0:
            return [needed[0], *(width + spare / (len(needed) - 1) for width in needed[1:])]
        # Words of the first column wrap best.
        least = max(self.width * 0.25, needed[0] + spare)
        squeeze = min((self.width - least) / sum(needed[1:]), 1.0)
        return [least, *(width * squeeze for width in needed[1:])]

    def _cells(self, cells: tuple[str, ...], widths: list[float], size: float, *, bold: bool) -> _BlockRow:
        wrapped = [_wrapped(cell, size, width - 1.0, bold=bold) for cell, width in zip(cells, widths, strict=True)]
        lines = max(len(cell) for cell in wrapped)
        step = size * 1.25
        items: list[Item] = []
        x = 0.0
        for index, (cell, width) in enumerate(zip(wrapped, widths, strict=True)):
            at, anchor = (x, "start") if index == 0 else (x + width, "end")
            items += [
                Text(x=at, y=step * (line + 1), text=text, size=size, anchor=anchor, bold=bold)
                for line, text in enumerate(cell)
            ]
            x += width
        y = step * lines + 1.0
        items.append(Line(x1=0, y1=y, x2=self.width, y2=y))
        return _BlockRow(y + 0.4, tuple(items))

    def _blank(self, head: tuple[tuple[str, float], ...], count: int, first: int) -> Iterator[_BlockRow]:
        size = _SMALL * self.scale
        places = [sum(share for _, share in head[:index]) * self.width for index in range(len(head))]
        names = tuple(
            Text(x=at, y=size * 1.25, text=name, size=size, anchor="start", bold=True)
            for at, (name, _) in zip(places, head, strict=True)
        )
        yield _BlockRow(size * 1.6, names)
        height = 7.0 * self.scale
        for number in range(first, first + count):
            lines = [Line(x1=at - 0.6, y1=0, x2=at - 0.6, y2=height) for at in places[1:]]
            text = Text(x=0, y=height - 1.6, text=str(number), size=size, anchor="start")
            yield _BlockRow(height, (*lines, Line(x1=0, y1=height, x2=self.width, y2=height), text))


def _wrapped(text: str, size: float, width: float, *, bold: bool = False) -> list[str]:
    """Part a text into lines no wider than ``width`` mm; a word, or a number with its unit, may be wider."""
    lines = [""]
    for word in keep_units(text).split(" "):
        longer = f"{lines[-1]} {word}".strip()
        if lines[-1] and text_width(longer, size, bold=bold) > width:
            lines.append(word)
        else:
            lines[-1] = longer
    return lines
