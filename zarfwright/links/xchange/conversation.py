"""One connection between two stations: both ends ask and answer on it, at any time."""

from __future__ import annotations

import queue
import socket
import threading
import time
from collections import deque
from collections.abc import Callable
from contextlib import suppress

from zarfwright.links.xchange.wire import Garbled, LinkError, Message, packets, receive

ANSWER_S, FILE_S = 10.0, 60.0
ASKED_MOST, WITHIN_S = 300, 1.0
"""A station that asks more often than this is cut off."""
WAITING_MOST = 64
REQUEST = "MVR_REQUEST"
Answer = Callable[["Conversation", Message], Message | bytes]


class Conversation:
    """Answers what the other asks by `answer`, in a thread of its own; `over` is called once, with why it ended."""

    def __init__(self, connection: socket.socket, answer: Answer, over: Callable[[Conversation, str], None]) -> None:
        self.connection, self._answer, self._over = connection, answer, over
        with suppress(OSError):
            connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        self.why = ""
        self.open = True
        self._writing, self._asking, self._ending = threading.Lock(), threading.Lock(), threading.Lock()
        self._replies: queue.Queue[Message | bytes | None] = queue.Queue()
        self._awaited = ""
        self._asked: queue.Queue[Message | None] = queue.Queue(WAITING_MOST)
        threading.Thread(target=self._hear, name="xchange-hear", daemon=True).start()
        threading.Thread(target=self._work, name="xchange-answer", daemon=True).start()

    def _hear(self) -> None:
        asked: deque[float] = deque(maxlen=ASKED_MOST)
        why = "the other end closed it"
        try:
            while True:
                came = receive(self.connection)
                if isinstance(came, bytes) or str(came.get("Type", "")).endswith("_RET"):
                    self._reply(came)
                    continue
                asked.append(time.monotonic())
                if len(asked) == ASKED_MOST and asked[-1] - asked[0] < WITHIN_S:
                    raise Garbled("it asked too much at once")
                self._asked.put_nowait(came)
        except (Garbled, queue.Full) as wrong:
            why = str(wrong) or "it asked too much at once"
        except (EOFError, OSError) as wrong:
            why = getattr(wrong, "strerror", None) or why
        self.close(why)

    def _reply(self, came: Message | bytes) -> None:
        """What nobody waits for is let go."""
        kind = "" if isinstance(came, bytes) else str(came["Type"])
        if self._awaited == REQUEST if isinstance(came, bytes) else kind == f"{self._awaited}_RET":
            self._replies.put(came)

    def _work(self) -> None:
        while (asked := self._asked.get()) is not None:
            answer = self._answer(self, asked)
            with suppress(LinkError):
                self.tell(answer)

    def tell(self, what: Message | bytes) -> None:
        """Say something. Raises LinkError."""
        try:
            with self._writing:
                self.connection.sendall(packets(what))
        except OSError as wrong:
            self.close(wrong.strerror or str(wrong))
            raise LinkError(f"The console cannot be reached any more: {self.why}.") from wrong

    def ask(self, message: Message, seconds: float = ANSWER_S) -> Message | bytes:
        """Say something and wait for what is answered: a message, or the file that was asked for. One at a time.
        Raises LinkError."""
        with self._asking:
            while not self._replies.empty():
                self._replies.get_nowait()
            self._awaited = str(message["Type"])
            try:
                if not self.open:
                    raise LinkError(f"The console cannot be reached any more: {self.why}.")
                self.tell(message)
                came = self._replies.get(timeout=seconds)
            except queue.Empty as late:
                raise LinkError(f"The console did not answer within {seconds:g} s: see whether it is busy.") from late
            finally:
                self._awaited = ""
        if came is None:
            raise LinkError(f"The console ended the link: {self.why}.")
        return came

    def close(self, why: str = "it was ended here") -> None:
        """End it; once."""
        with self._ending:
            if not self.open:
                return
            self.open, self.why = False, why
        with suppress(OSError):
            self.connection.shutdown(socket.SHUT_RDWR)
        self.connection.close()
        self._replies.put(None)
        with suppress(queue.Empty):
            while self._asked.full():
                self._asked.get_nowait()
        self._asked.put(None)
        self._over(self, why)
