"""A session that runs, legible from the stand: what now, at which tempo, which pass, what next. Space, arrows or a pedal that
sends them mark a pass; both hands stay on the instrument."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QHideEvent, QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QProgressBar, QPushButton, QVBoxLayout, QWidget

from dromic import presets
from dromic.app.kit.theme import Theme
from dromic.app.session.drill_sound import DrillSound
from dromic.app.session.ear import Ear
from dromic.app.session.figure_view import FigureView
from dromic.app.session.pedal import MidiPedal
from dromic.app.session.practising import Practising
from dromic.app.session.words import HANDS, SAID, slot_name
from dromic.core.drills.drill import FRETTING, PICKING
from dromic.core.listening.passes import PassHeard
from dromic.core.practice.log_pass import FAULTS

_LOOK_MS = 40
"""How often the running session is looked at, ms."""
_METER_PX = 120
"""Width of the input's level, px."""
MOST_CLICKS = 4
_TAP_MOST_S = 3.0
"""taps farther apart than this begin a new tempo"""
_FAULT_KEYS = ", ".join(f"{n} {fault}" for n, fault in enumerate(FAULTS, start=1))
_CTRL, _ALT, _META, _SHIFT = (
    Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.MetaModifier,
    Qt.KeyboardModifier.ShiftModifier,
)  # fmt: skip
_MARKS = frozenset({
    Qt.Key.Key_Space, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Backspace,
    Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown,
})  # fmt: skip
"""keys that say how a pass went, or go on"""
KEYS = (
    f"Missed, and how: {_FAULT_KEYS}\n"
    "Space or →  clean     ←  missed     ↑  missed, picking hand     ↓  missed, fretting hand     Backspace  take back\n"
    "Enter  next part     T, or Space while it counts in  tap a tempo     + −  tempo     N  a note     "
    "M  your part     C  clicks a beat\nD  drums     G  gaps     B  in the background     L  mark by listening     "
    "O  it heard wrongly     P  pause     Esc  end the session"
)


class RunningView(QWidget):
    """Follows its model; sound and clock go on by themselves."""

    left = pyqtSignal()

    def __init__(
        self,
        practising: Practising,
        latency_s: Callable[[str], float | None] = lambda _: None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.practising, self.sound, self.ear = practising, DrillSound(self), Ear(latency_s, self)
        self.sound.ready = self.ear.ready
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("the session that runs")
        self.what, self.why, self.tempo, self.passes = QLabel(), QLabel(), QLabel(), QLabel()
        self.beat, self.clock, self.next, self.keys = QLabel(), QLabel(), QLabel(), QLabel(KEYS)
        self.figure, self.time, self.meter = FigureView(), QProgressBar(), QProgressBar()
        self.by_ear = QLabel()
        self.turns, self.note = QLabel(), QLineEdit()
        self.clean, self.missed, self.on = QPushButton("Clean"), QPushButton("Missed"), QPushButton("Next part")
        self.rest = QPushButton("Pause")
        self._contact: tuple[object, float] | None = None
        """which key, or the pedal, was pressed last, and when"""
        self._ticked: set[int] = set()
        """lines of a warm-up or a break that are done"""
        self._slot: object = None
        self._began: float | None = None
        """when the sound of the drill in hand began"""
        self.sound.started.connect(self._sounds)
        self.ear.heard.connect(self._heard)
        self.ear.noticed.connect(practising.noticed)
        self.ear.level.connect(lambda level: self.meter.setValue(round(100 * level)))
        self.pedal = MidiPedal(self)
        self.pedal.pressed.connect(lambda: None if self._bounced(None) else self._advance())
        self._taps: list[float] = []
        key = Qt.Key
        self._acts: dict[Qt.Key, Callable[[], object]] = {
            key.Key_Space: self._advance,
            key.Key_Right: partial(self._mark, True),
            key.Key_Left: partial(self._mark, False),
            key.Key_Up: partial(self._mark, False, PICKING),
            key.Key_Down: partial(self._mark, False, FRETTING),
            key.Key_Backspace: practising.take_back,
            key.Key_Return: practising.go_on,
            key.Key_Enter: practising.go_on,
            key.Key_PageUp: partial(practising.go_on, -1),
            key.Key_PageDown: practising.go_on,
            key.Key_Plus: partial(self._faster, 1.0),
            key.Key_Minus: partial(self._faster, -1.0),
            key.Key_M: self._part,
            key.Key_T: self._tap,
            key.Key_G: self._gaps,
            key.Key_C: self._divide,
            key.Key_B: self._background,
            key.Key_N: self._write_note,
            key.Key_D: self._groove,
            key.Key_L: self._listen,
            key.Key_O: self._overrule,
            key.Key_P: self.pause,
            key.Key_Escape: practising.end,
            **{Qt.Key(key.Key_1 + n): partial(self._digit, n) for n in range(len(FAULTS))},
        }
        self._build()
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOK_MS)
        self._timer.timeout.connect(self._look)
        practising.moved.connect(self._moved)
        practising.ended.connect(self._ended)
        self.clean.clicked.connect(lambda: self._mark(True))
        self.missed.clicked.connect(lambda: self._mark(False))
        self.on.clicked.connect(lambda _: practising.go_on())
        self.rest.clicked.connect(lambda _: self.pause())
        self.note.returnPressed.connect(self._keep_note)

    def _build(self) -> None:
        for label, name in ((self.what, "stand"), (self.tempo, "huge"), (self.passes, "stand"), (self.next, "said")):
            label.setObjectName(name)
        self.why.setObjectName("said")
        self.beat.setObjectName("stand")
        self.clock.setObjectName("stand")
        self.keys.setObjectName("soft")
        for label in (self.why, self.keys, self.what):
            label.setWordWrap(True)
        self.by_ear.setObjectName("said")
        self.meter.setTextVisible(False)
        self.meter.setFixedSize(_METER_PX, 10)
        self.meter.setAccessibleName("level of the input")
        self.turns.setObjectName("said")
        self.turns.setTextFormat(Qt.TextFormat.PlainText)
        self.note.setPlaceholderText("A note on the last pass; Enter keeps it")
        self.note.setAccessibleName("a note on the last pass")
        self.note.hide()
        self.time.setTextVisible(False)
        self.time.setRange(0, 1000)
        self.time.setFixedHeight(10)
        for button in (self.clean, self.missed, self.on, self.rest):
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # the keys belong to the view
        head = QHBoxLayout()
        head.addWidget(self.what, 1)
        head.addWidget(self.clock)
        middle = QHBoxLayout()
        middle.addWidget(self.tempo)
        beside = QVBoxLayout()
        beside.addWidget(self.passes)
        beside.addWidget(self.why)
        beside.addWidget(self.turns)
        ear = QHBoxLayout()
        ear.addWidget(self.meter)
        ear.addWidget(self.by_ear, 1)
        beside.addLayout(ear)
        middle.addLayout(beside, 1)
        middle.addWidget(self.beat)
        row = QHBoxLayout()
        for widget in (self.clean, self.missed, self.on, self.rest):
            row.addWidget(widget)
        row.addWidget(self.note, 1)
        row.addStretch(1)
        row.addWidget(self.next)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(16, 8, 16, 8)
        whole.addLayout(head)
        whole.addWidget(self.time)
        whole.addLayout(middle)
        whole.addWidget(self.figure, 1)
        whole.addLayout(row)
        whole.addWidget(self.keys)

    def set_theme(self, theme: Theme) -> None:
        self.figure.set_theme(theme)

    def start(self) -> None:
        """Show the session from where it is."""
        self.keys.setText(f"{KEYS}     {self.pedal.open()}")
        if self.practising.wishes.by_ear:
            self._open_ear()
        self._show_ear("")
        self._timer.start()
        self.practising.resume()
        self._moved()
        self.setFocus()

    def pause(self) -> None:
        """Sound and clock stand still; or on with the same drill."""
        session = self.practising.session
        if session is None:
            return
        if session.paused is None:
            self.practising.pause()
        else:
            self.practising.resume()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        if event is not None and not event.spontaneous():  # another page, not another window over this one
            self.practising.pause()

    def _moved(self) -> None:
        session, drill = self.practising.session, self.practising.drill
        if session is None:
            return
        self.what.setText(slot_name(session.slot, drill) + (f", {HANDS[drill.hand]}" if drill is not None else ""))
        after = session.next_slot
        following = None
        if after is not None and after.drill is not None:
            following = session.course.drill(after.drill)
        self.next.setText(f"Next: {slot_name(after, following)}" if after is not None else "Next: the end")
        paused = session.paused is not None
        for widget in (self.clean, self.missed):
            widget.setEnabled(drill is not None and not paused)
        self.rest.setText("Go on" if paused else "Pause")
        if paused:
            self.sound.stop()
            self.ear.rest()
            self.beat.setText("paused")
            self.why.setText("Paused: P or Space goes on with this drill and its minutes.")
            return
        if drill is None or session.rung is None or session.drill is None:
            self.sound.stop()
            self.ear.rest()
            self.turns.setText("")
            self.tempo.setText("")
            self.passes.setText("")
            if self._slot is not session.slot:
                self._slot, self._ticked = session.slot, set()
            lines = enumerate(SAID[session.slot.what])
            self.why.setText("\n".join(f"{'☑' if n in self._ticked else '☐'}  {n + 1}  {line}" for n, line in lines))
            self.figure.show_phrase(None)
            self.beat.setText("")
            return
        rung = session.rung
        self.tempo.setText(f"{rung.tempo:.0f}")
        self.passes.setText(f"{'Burst. ' if rung.burst else ''}Pass {session.clean + session.missed + 1}: "
                            f"{session.clean} clean, {session.missed} missed")  # fmt: skip
        rest = f" Rest for {rung.rest_s:.0f} s first: let the hands hang." if rung.rest_s else ""
        said = [
            name
            for name, on in (
                ("drums", self.sound.groove),
                ("silent every other round", self.sound.gaps),
                (f"{self.sound.divide} clicks a beat", self.sound.divide > 1),
                ("in the background, not counted", not self.practising.attentive),
            )
            if on
        ]
        how = f" ({'; '.join(said)})" if said else ""
        self.why.setText(rung.reason[:1].upper() + rung.reason[1:] + "." + rest + how)
        taking = session.course.turns(session.drill)
        self.turns.setText(
            "   ".join(f"{'✓' if done else '▸' if name == drill.key else '·'} {name}" for name, done in taking)
        )
        if self.figure.phrase is not drill.phrase:
            self.figure.show_phrase(drill.phrase)
        self.sound.play(drill.phrase, rung.tempo)

    def _look(self) -> None:
        session, drill = self.practising.session, self.practising.drill
        if session is None:
            return
        left = self.practising.seconds_left
        minutes, seconds = divmod(max(0, round(left)), 60)
        self.clock.setText(f"{minutes}:{seconds:02d}")
        whole = max(1.0, session.slot.minutes * 60)
        self.time.setValue(round(1000 * min(1.0, max(0.0, 1 - left / whole))))
        if drill is None:
            if left <= 0 and session.paused is None:
                self.practising.go_on()
            return
        if self.sound.rendering is None or session.paused is not None:
            return
        at = self.sound.rendering.at(self.sound.seconds())
        if at is None:
            self.figure.follow(None)
            self.beat.setText("counting in")
            return
        phrase = drill.phrase
        self.figure.follow(max(0, bisect_right(phrase.events, at, key=lambda e: e.onset) - 1))
        bar = phrase.bars[phrase.bar_at(at)]
        self.beat.setText(f"{bar.metre.beat_at(bar.offset_of(at))[0] + 1}")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or event.isAutoRepeat():
            return
        act = self._acts.get(Qt.Key(event.key()))
        with_others = event.modifiers() & (_CTRL | _ALT | _META)
        if event.modifiers() & _SHIFT and event.key() in _MARKS:
            with_others = event.modifiers()  # a letter, a digit or a sign may need it
        if act is None or with_others:
            super().keyPressEvent(event)
        elif event.key() not in _MARKS or not self._bounced(event.key()):
            act()

    def _bounced(self, key: object) -> bool:
        """Whether a contact of a key, or the pedal, comes too soon after its last one to be another; each that does is told."""
        now, before = self.practising.clock(), self._contact
        self._contact = key, now
        if before is None or before[0] != key or now - before[1] >= presets.practice().passes.bounce_s:
            return False
        self.practising.noticed.emit("Not counted: the contact bounced", True)
        return True

    def _advance(self) -> None:
        """One pedal is enough: clean in a drill, on in a warm-up or a break; while it is counted in no pass can be over, so
        presses are taps of a tempo."""
        session = self.practising.session
        if session is not None and session.paused is not None:
            self.practising.resume()
        elif self.practising.drill is None:
            self.practising.go_on()
        elif self.counting_in:
            self._tap()
        else:
            self._mark(True)

    def _digit(self, number: int) -> None:
        """In a drill a miss with its fault; in a warm-up a line that is done."""
        session = self.practising.session
        if self.practising.drill is not None:
            self._mark(False, None, FAULTS[number])
        elif session is not None and number < len(SAID[session.slot.what]):
            self._ticked ^= {number}
            self._moved()

    @property
    def counting_in(self) -> bool:
        """Whether the bar before the first note of a drill or tempo is still to come or sounds: nothing can have been played."""
        rendering = self.sound.rendering
        if rendering is None or self._began is None:
            return False
        return (self.practising.clock() - self._began) < rendering.seconds[0]

    def _sounds(self) -> None:
        self._began = self.practising.clock()
        session, rendering, loop = self.practising.session, self.sound.rendering, self.sound.loop
        if session is None or session.drill is None or session.rung is None or rendering is None or loop is None:
            return
        course, number = session.course, session.drill
        self.ear.follow(lambda: course.plan(number), session.rung.tempo, rendering, loop, self.sound.output)

    def _mark(self, clean: bool, hand: str | None = None, fault: str | None = None) -> None:
        """The player says how the pass went."""
        self.ear.skip()
        self.practising.mark(clean, hand, fault)

    def _heard(self, one: PassHeard) -> None:
        """The ear says it."""
        if not one.judged:
            self._show_ear(f"Not marked: {one.words}")
            return
        self._show_ear(f"{'Clean' if one.clean else 'Missed'} by ear: {one.words}")
        self.practising.mark(one.clean, one.hand, one.fault, heard=True)

    def _overrule(self) -> None:
        self.practising.overrule()
        self._show_ear("Overruled")

    def _listen(self) -> None:
        """Passes are marked by listening from now on, or no more."""
        if self.ear.on:
            self.ear.close()
        elif not self._open_ear():
            return
        self.practising.remember(by_ear=self.ear.on)
        self._show_ear("")
        self.sound.stop()
        self._moved()  # from its front again, so that both begin together

    def _open_ear(self) -> bool:
        on = self.ear.open()
        if on:
            self.sound.part_audible = False  # the microphone would hear it
        return on

    def _show_ear(self, words: str) -> None:
        self.meter.setVisible(self.ear.on)
        self.by_ear.setText((words or "Listening: play along, each pass is marked for you") if self.ear.on else "")

    def _write_note(self) -> None:
        self.note.show()
        self.note.setFocus()

    def _keep_note(self) -> None:
        self.practising.note(self.note.text())
        self.note.clear()
        self.note.hide()
        self.setFocus()

    def _faster(self, by: float) -> None:
        session = self.practising.session
        if session is not None and session.rung is not None:
            self.practising.retempo(session.rung.tempo + by)

    def _tap(self) -> None:
        now = self.practising.clock()
        self._taps = [*[t for t in self._taps if now - t < _TAP_MOST_S][-3:], now]
        if len(self._taps) < 2:
            return
        numbers, span = presets.practice().passes, self._taps[-1] - self._taps[0]
        tempo = 60.0 * (len(self._taps) - 1) / span if span > 0 else math.inf
        if numbers.tap_least <= tempo <= numbers.tap_most:
            self.practising.retempo(tempo)
        else:
            self._taps = self._taps[-1:]
            self.practising.noticed.emit("No tempo: these taps are too fast or too slow for one", True)

    def _part(self) -> None:
        self.sound.part_audible = not self.sound.part_audible
        self._moved()

    def _gaps(self) -> None:
        self.sound.gaps = not self.sound.gaps
        self._moved()

    def _divide(self) -> None:
        self.sound.divide = self.sound.divide % MOST_CLICKS + 1
        self._moved()

    def _groove(self) -> None:
        self.sound.groove = not self.sound.groove
        self._moved()

    def _background(self) -> None:
        self.practising.attentive = not self.practising.attentive
        self._moved()

    def _ended(self) -> None:
        self._timer.stop()
        self.pedal.close()
        self.ear.close()
        self.sound.stop()
        self.left.emit()

    def stop(self) -> None:
        """The window closes."""
        self._timer.stop()
        self.pedal.close()
        self.ear.stop()
        self.sound.close()
