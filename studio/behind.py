"""What is made behind, for scenes that are open: one thing at a time, and of each scene the newest only."""

import logging
import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field

from sunlatch.errors import SunLatchError

Work = Callable[[Callable[[], bool]], object]
"""Gets a question that says whether it is not wanted any more."""

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class _Asked:
    key: str
    work: Work
    given_up: threading.Event = field(default_factory=threading.Event)


class Behind:
    """See the module. Safe to share between threads."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._waiting: OrderedDict[str, _Asked] = OrderedDict()
        self._now: tuple[str, _Asked] | None = None
        self._lock = threading.Lock()
        self._at_work = False

    def ask(self, of: str, key: str, work: Work) -> None:
        """Something of a scene is wanted. What was asked of the same scene before, by another key, is given up; asked for
        again, it goes on."""
        with self._lock:
            if self._now is not None and self._now[0] == of:
                if self._now[1].key == key and not self._now[1].given_up.is_set():
                    self._waiting.pop(of, None)
                    return
                self._now[1].given_up.set()
            held = self._waiting.get(of)
            if held is None or held.key != key:
                self._waiting[of] = _Asked(key, work)
            if not self._at_work:
                self._at_work = True
                threading.Thread(target=self._run, name=self._name, daemon=True).start()

    def _run(self) -> None:
        while True:
            with self._lock:
                if not self._waiting:
                    self._at_work, self._now = False, None
                    return
                self._now = self._waiting.popitem(last=False)
            # what cannot be made is said when it is asked for
            asked = self._now[1]
            try:
                asked.work(asked.given_up.is_set)
            except (SunLatchError, OSError) as error:
                log.info("%s was not made behind: %s", self._name, error)
