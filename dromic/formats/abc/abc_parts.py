"""The order in which a tune's parts are played (P:ABA, A2B2, (AB)3C): written out, since a phrase plays its bars as they stand.

Source: the ABC music standard 2.1, section 3.1.9.
"""

from __future__ import annotations

import re
from dataclasses import replace

from dromic.core.music.phrase import Bar, Event, Phrase, Section
from dromic.formats.limits import limit

_TOKEN = re.compile(r"([A-Z]|\(|\))(\d*)")


def order_of(text: str) -> str:
    """The parts in the order played, a letter each: 'A2(BC)2' is AABCBC. Empty where the text says no order."""
    stack: list[str] = [""]
    plain = re.sub(r"[\s.]", "", text)
    if not re.fullmatch(r"(?:[A-Z]\d*|\(|\)\d*)*", plain):
        return ""
    for sign, count in _TOKEN.findall(plain):
        times = min(int(count or 1), limit("repeats"))
        if sign == "(":
            stack.append("")
        elif sign == ")":
            if len(stack) < 2:
                return ""
            inside = stack.pop()
            stack[-1] += inside * times
        else:
            stack[-1] += sign * times
        if len(stack[-1]) > limit("bars"):
            return ""
    return stack[0] if len(stack) == 1 else ""


def in_order(phrase: Phrase, order: str) -> Phrase | None:
    """The phrase with its parts, one a section, one after the other as the order says; None where a part is missing."""
    parts = {section.name[:1]: section for section in phrase.sections}
    if not order or not set(order) <= set(parts) or order == "".join(s.name[:1] for s in phrase.sections):
        return None
    bars: list[Bar] = []
    sections: list[Section] = []
    events: list[Event] = []
    now, number = phrase.bars[0].start, phrase.bars[0].number
    for name in order:
        section = parts[name]
        first = len(bars)
        for index in range(section.first, section.last + 1):
            bar = phrase.bars[index]
            by, place = now - bar.start, len(bars)
            events += [replace(e, onset=e.onset + by, bar=place) for e in phrase.events if e.bar == index]
            # what a part repeats begins with the part
            bars.append(replace(bar, start=now, number=number, repeat_start=bar.repeat_start or index == section.first))
            now, number = now + bar.length, number + 1
            if len(bars) > limit("bars"):
                return None
        sections.append(Section(name, first, len(bars) - 1))
    return replace(phrase, bars=tuple(bars), events=tuple(events), sections=tuple(sections))
