"""A process that does what it is asked, and is begun again when it ends."""

from __future__ import annotations

import contextlib
import threading
import time
from collections.abc import Callable
from typing import Any

from ushering_adze.io.child import PICTURES, Child
from ushering_adze.io.logs import log
from ushering_adze.playout.messages import Answer, Ask
from ushering_adze.playout.wire import Wire

PATIENCE = 20.0
"""Seconds that an answer is waited for."""
SOON = 2.0
"""Seconds that one is waited for which may as well be none."""
REST = 0.5
"""Seconds of rest before it is begun again, for each time that it ended in a row; `MOST_REST` at most."""
MOST_REST = 5.0
LONG = 10.0
"""Seconds that it has run after which its end is not in a row with those before."""
TICK = 1.0
"""Seconds from one look to the next at whether it still says anything; in so many, too, as this process has them."""
HUNG = 30
"""Looks in a row without a word from it after which it hangs, and is ended."""
SPARE_AFTER = 4.0
"""Seconds after which another is begun that only waits: it has read all it needs when it is wanted."""


class Gone(ConnectionError):
    """There is no answer: the process has ended, or hangs."""


class Link:
    """The end of a wire to a process.  Any thread may ask.

    Parameters
    ----------
    begin : callable
        Gives what is said to the process first.
    take : callable
        Is given every message that is no answer, in a thread of the link's own.
    ended : callable
        Is told, in words, how the process ended when nobody wanted it to, before it is begun again.
    again : callable
        Is told when it has been begun again; an error, if it cannot be.
    child : Child, optional
        The process, begun already.
    """

    def __init__(
        self,
        begin: Callable[[], object],
        take: Callable[[object], None],
        ended: Callable[[str], None],
        again: Callable[[str, OSError | None], None],
        child: Child | None = None,
    ) -> None:
        self._begin, self._take, self._ended, self._again = begin, take, ended, again
        self.lock = threading.RLock()
        """Held while anything is said, so that the order of what is said is that of what is known here."""
        self.ends = 0
        """How often it ended in a row; who asks something that may be why sets it back."""
        self._up = threading.Event()
        self._waiting: list[Ask] = []
        """What is to be done when the process is there again."""
        self._standing: dict[object, Ask] = {}
        """What was asked for once and for all, by what it is in place of."""
        self._answers: dict[int, Answer] = {}
        self._asking: dict[int, threading.Event] = {}
        self._count = 0
        self._closing = threading.Event()
        self._spare: Child | None = None
        self._heard = self._hung = False
        self._live(child or Child(PICTURES))

    @property
    def process(self) -> int:
        """The number of the process."""
        return self._child.number

    def _live(self, child: Child) -> None:
        with self.lock:
            self._child, self._wire = child, Wire(child.socket)
            self._wire.send(self._begin())
            for ask in (*self._standing.values(), *self._waiting):
                self._wire.send(ask)
            self._waiting.clear()
            self._heard = self._hung = False
            self._since = time.monotonic()
            self._up.set()
        threading.Thread(target=self._read, args=(self._wire,), name="link", daemon=True).start()
        threading.Thread(target=self._watch, args=(child,), name="link watch", daemon=True).start()

    def _watch(self, child: Child) -> None:
        """See to it that the process says something, and that there is another should it end."""
        silent, spoke, began = 0, False, time.monotonic()
        while not self._closing.wait(TICK) and child is self._child:
            spoke, silent = spoke or self._heard, 0 if self._heard else silent + 1
            self._heard = False
            if spoke and silent >= HUNG:
                self._hung = True
                child.kill()
                return
            if self._spare is None and spoke and time.monotonic() - began > SPARE_AFTER:
                with contextlib.suppress(OSError):
                    self._spare = Child(PICTURES)
                if self._closing.is_set():
                    self._next().kill()

    def _next(self) -> Child:
        """The process that waits, or else a new one."""
        spare, self._spare = self._spare, None
        return spare if spare is not None and spare.ended(0) is None else Child(PICTURES)

    def _read(self, wire: Wire) -> None:
        while True:
            try:
                message = wire.receive()
            except Exception as error:
                if not isinstance(error, EOFError):
                    log.exception("what the pictures' process says cannot be read")
                wire.close()
                break
            self._heard = True
            try:
                if isinstance(message, Answer):
                    asking = self._asking.get(message.number)
                    if asking is not None:
                        self._answers[message.number] = message
                        asking.set()
                else:
                    self._take(message)
            except Exception:
                log.exception("what the pictures' process says could not be used")
        with self.lock:
            self._up.clear()
            for asking in [*self._asking.values()]:
                asking.set()
        if not self._closing.is_set():
            self._revive()

    def _revive(self) -> None:
        """The process has ended, and nobody wanted it to."""
        code = self._child.ended(2)
        if code is None:
            self._child.kill()
        how = "it hung" if self._hung or code is None else f"signal {-code}" if code < 0 else f"code {code}"
        log.warning("the process that makes the pictures ended", how=how)
        with self.lock:
            self.ends = 1 if time.monotonic() - self._since > LONG else self.ends + 1
        self._ended(how)
        if self._closing.wait(min(MOST_REST, REST * (self.ends - 1))):
            return
        try:
            self._live(self._next())
        except OSError as error:
            log.exception("the process that makes the pictures cannot be begun")
            self._again(how, error)
        else:
            self._again(how, None)

    # -- what is said --------------------------------------------------------------------------------------------------

    def tell(self, name: str, *given: Any, **named: Any) -> None:
        """Have something done; when the process is there again, if it is not."""
        self._give(Ask(0, name, given, named))

    def stand(self, what: object, name: str, *given: Any, **named: Any) -> None:
        """Have something be so from now on, whatever becomes of the process; ``what`` it is in place of."""
        ask = Ask(0, name, given, named)
        with self.lock:
            self._standing[what] = ask
            if self._up.is_set():
                self._give(ask)

    def as_if(self, what: object, name: str, *given: Any) -> None:
        """Have something be so when the process is begun again, and not before."""
        with self.lock:
            self._standing[what] = Ask(0, name, given)

    def fall(self, *whats: object) -> None:
        """What was asked for is to be so no more when the process is begun again."""
        with self.lock:
            for what in whats:
                self._standing.pop(what, None)

    def standing(self, what: object) -> tuple[Any, ...]:
        """What stands in this place."""
        ask = self._standing.get(what)
        return () if ask is None else ask.given

    def without(self, value: object) -> None:
        """What waits to be done with a value is not to be done."""
        with self.lock:
            self._waiting = [ask for ask in self._waiting if all(given is not value for given in ask.given)]

    def _give(self, ask: Ask) -> None:
        with self.lock:
            if self._closing.is_set():
                return
            if self._up.is_set():
                try:
                    self._wire.send(ask)
                    return
                except OSError:
                    pass  # who reads finds it out as well
            if all(ask is not standing for standing in self._standing.values()):
                self._waiting.append(ask)

    def ask(self, name: str, *given: Any, patience: float = PATIENCE) -> Any:
        """What the process answers.

        Raises
        ------
        Gone
            It has ended, or does not answer.
        Exception
            Whatever doing it raises.
        """
        answered = threading.Event()
        with self.lock:
            self._count += 1
            number = self._count
            self._asking[number] = answered
            up = self._up.is_set()
            if up:
                try:
                    self._wire.send(Ask(number, name, given))
                except OSError:
                    up = False
        if up:
            answered.wait(patience)
        del self._asking[number]
        answer = self._answers.pop(number, None)
        if answer is None:
            raise Gone(f"the process that makes the pictures does not answer ({name})")
        if answer.error is not None:
            raise answer.error
        return answer.value

    def asked(self, name: str, *given: Any) -> Any:
        """The same; None if there is no answer soon."""
        try:
            return self.ask(name, *given, patience=SOON)
        except Gone:
            return None

    def close(self, name: str, seconds: float) -> None:
        """Have the process end, by what is asked for so; it is waited for so many seconds, and ended then."""
        with self.lock:
            if self._closing.is_set():
                return
            self._closing.set()
        try:
            self.ask(name, seconds, patience=seconds + 2)
        except Gone:
            log.warning("the process that makes the pictures did not end by itself")
        self._wire.close()
        if self._child.ended(1) is None:
            self._child.kill()
        if self._spare is not None:
            self._spare.kill()
