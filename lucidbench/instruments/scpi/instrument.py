"""What every instrument has: its commands, the common ones, and the status registers.

IEEE 488.2-1992, clauses 10 and 11; SCPI-1999, volume 1, chapter 9, and volume 2, chapters 18, 20 and 21.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from typing import Any, ClassVar, NamedTuple, TypeVar

from lucidbench import __version__
from lucidbench.core.errors import LucidError
from lucidbench.instruments.bench import Bench
from lucidbench.instruments.scpi.errors import ErrorEntry, ScpiError
from lucidbench.instruments.scpi.syntax import Data, Message, Pattern, messages

MOST_ERRORS = 20  # that the queue holds
_OPC, _PON = 1, 128  # bits of the standard event status register
_ERRORS, _QUESTIONABLE, _ESB, _MSS, _OPERATION = 4, 8, 32, 64, 128  # of the status byte

Answer = str | bytes | None
Handler = TypeVar("Handler", bound=Callable[..., Answer])


class Command(NamedTuple):
    pattern: Pattern
    is_query: bool
    carry_out: Callable[[Any, Data], Answer]


def command(*headers: str) -> Callable[[Handler], Handler]:
    """A method that carries out the commands of these headers; with ? at the end, answers queries."""

    def mark(method: Handler) -> Handler:
        method.headers = headers  # type: ignore[attr-defined]
        return method

    return mark


class Register:
    """A condition register with its events and what of them is enabled."""

    def __init__(self) -> None:
        self.condition = self.event = self.enable = 0

    def read_event(self) -> int:
        event, self.event = self.event, 0
        return event


class Instrument:
    """One instrument of a bench. A subclass adds commands as methods, and `reset` for its settings."""

    name: ClassVar[str]  # as *IDN? tells it
    kind: ClassVar[str]  # a word for settings and files
    commands: ClassVar[tuple[Command, ...]] = ()

    def __init_subclass__(cls) -> None:
        found = []
        for owner in reversed(cls.__mro__):
            for method in vars(owner).values():
                for header in getattr(method, "headers", ()):
                    found.append(Command(Pattern(header.rstrip("?")), header.endswith("?"), method))
        cls.commands = tuple(found)

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self.errors: deque[ErrorEntry] = deque()
        self.event_status = _PON
        self.event_enable = self.service_enable = 0
        self.operation, self.questionable = Register(), Register()
        self.draws = 0  # readings since it was switched on, each with its own chance
        self.reset()

    def reset(self) -> None:
        """Settings as after *RST."""

    def carry_out(self, line: str) -> list[str | bytes]:
        """The answers to a program message, in order. What is wrong with it goes to the error queue."""
        answers: list[str | bytes] = []
        with self.bench.lock:
            try:
                for message in messages(line):
                    answer = self._carry_out(message)
                    if answer is not None:
                        answers.append(answer)
            except ScpiError as error:
                self.tell(error.entry)
            except LucidError as error:
                self.tell(ErrorEntry(-200, str(error)))
        return answers

    def _carry_out(self, message: Message) -> Answer:
        is_near = False
        for each in self.commands:
            suffixes = each.pattern.suffixes(message.header)
            if suffixes is None:
                continue
            is_near = True
            if each.is_query == message.is_query:
                data = Data(message.data, suffixes, each.pattern.text)
                answer = each.carry_out(self, data)
                if not data.is_over:
                    raise ScpiError(-108, data.next()[:20])
                return answer
        told = "a query only" if message.is_query is False else "no query"
        raise ScpiError(-113, f"{message.header}{f' is {told}' if is_near else ''}"[:60])

    def tell(self, entry: ErrorEntry) -> None:
        """Put an error into the queue; where that is full its last place says so."""
        self.event_status |= entry.event
        if len(self.errors) < MOST_ERRORS:
            self.errors.append(entry)
        else:
            self.errors[-1] = ErrorEntry(-350)

    def drawn(self) -> int:
        """The number of a reading that is about to be taken."""
        self.draws += 1
        return self.draws

    @property
    def status_byte(self) -> int:
        byte = _ERRORS * bool(self.errors)
        byte |= _QUESTIONABLE * bool(self.questionable.event & self.questionable.enable)
        byte |= _OPERATION * bool(self.operation.event & self.operation.enable)
        byte |= _ESB * bool(self.event_status & self.event_enable)
        return byte | _MSS * bool(byte & self.service_enable)

    # --- common commands, IEEE 488.2-1992, clause 10 ---------------------------------------------

    @command("*IDN?")
    def _identify(self, data: Data) -> Answer:
        return f"Lucid Bench,{self.name},{self.bench.seed},{__version__}"

    @command("*RST")
    def _reset(self, data: Data) -> Answer:
        self.reset()
        return None

    @command("*CLS")
    def _clear(self, data: Data) -> Answer:
        self.errors.clear()
        self.event_status = self.operation.event = self.questionable.event = 0
        return None

    @command("*ESR?")
    def _event_status(self, data: Data) -> Answer:
        status, self.event_status = self.event_status, 0
        return str(status)

    @command("*ESE")
    def _enable_events(self, data: Data) -> Answer:
        self.event_enable = data.whole(0, 255)
        return None

    @command("*ESE?")
    def _enabled_events(self, data: Data) -> Answer:
        return str(self.event_enable)

    @command("*SRE")
    def _enable_service(self, data: Data) -> Answer:
        self.service_enable = data.whole(0, 255) & ~_MSS
        return None

    @command("*SRE?")
    def _enabled_service(self, data: Data) -> Answer:
        return str(self.service_enable)

    @command("*STB?")
    def _status(self, data: Data) -> Answer:
        return str(self.status_byte)

    @command("*OPC")
    def _complete(self, data: Data) -> Answer:
        self.event_status |= _OPC  # commands here are done one after the other
        return None

    @command("*OPC?")
    def _is_complete(self, data: Data) -> Answer:
        return "1"

    @command("*WAI")
    def _wait(self, data: Data) -> Answer:
        return None

    @command("*TST?")
    def _test(self, data: Data) -> Answer:
        """0 where the build can be worked out at all."""
        try:
            self.bench.loaded.fingerprint  # noqa: B018  # what is attached finds its nodes
        except LucidError:
            return "1"
        return "0"

    # --- the system and status subsystems --------------------------------------------------------

    @command("SYSTem:ERRor[:NEXT]?")
    def _next_error(self, data: Data) -> Answer:
        return str(self.errors.popleft() if self.errors else ErrorEntry(0))

    @command("SYSTem:ERRor:COUNt?")
    def _count_errors(self, data: Data) -> Answer:
        return str(len(self.errors))

    @command("SYSTem:VERSion?")
    def _version(self, data: Data) -> Answer:
        return "1999.0"

    @command("STATus:OPERation[:EVENt]?")
    def _operation_event(self, data: Data) -> Answer:
        return str(self.operation.read_event())

    @command("STATus:OPERation:CONDition?")
    def _operation_condition(self, data: Data) -> Answer:
        return str(self.operation.condition)

    @command("STATus:OPERation:ENABle")
    def _operation_enable(self, data: Data) -> Answer:
        self.operation.enable = data.whole(0, 32767)
        return None

    @command("STATus:OPERation:ENABle?")
    def _operation_enabled(self, data: Data) -> Answer:
        return str(self.operation.enable)

    @command("STATus:QUEStionable[:EVENt]?")
    def _questionable_event(self, data: Data) -> Answer:
        return str(self.questionable.read_event())

    @command("STATus:QUEStionable:CONDition?")
    def _questionable_condition(self, data: Data) -> Answer:
        return str(self.questionable.condition)

    @command("STATus:QUEStionable:ENABle")
    def _questionable_enable(self, data: Data) -> Answer:
        self.questionable.enable = data.whole(0, 32767)
        return None

    @command("STATus:QUEStionable:ENABle?")
    def _questionable_enabled(self, data: Data) -> Answer:
        return str(self.questionable.enable)

    @command("STATus:PRESet")
    def _preset(self, data: Data) -> Answer:
        self.operation.enable = self.questionable.enable = 0
        return None
