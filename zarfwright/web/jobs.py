"""Work that takes long, in other processes: started, seen with its progress, stopped, its result kept until fetched.

A job is some calls that can be made anywhere, and what is done with their answers here. Whoever makes the calls is an
`Executor` of the standard library: processes of this machine, or a cluster (`--jobs tcp://...`).
"""

from __future__ import annotations

import itertools
import logging
import os
import threading
from collections.abc import Callable, Sequence
from concurrent.futures import (
    FIRST_COMPLETED,
    BrokenExecutor,
    CancelledError,
    Executor,
    Future,
    ProcessPoolExecutor,
    wait,
)
from dataclasses import dataclass, field
from multiprocessing import get_context
from typing import Any, Literal

from zarfwright.core.edits import Call
from zarfwright.core.errors import JobError
from zarfwright.formats.findings import FormatError
from zarfwright.parent import end_with_parent
from zarfwright.store.errors import ShowFileError

log = logging.getLogger(__name__)
LOOK_S = 0.2
"""How soon a stop is heeded."""
KEPT = 50
"""Results that nobody fetched: the oldest is let go."""
State = Literal["running", "done", "failed", "stopped"]


class Local:
    """Processes of this machine, started with the first job. Each begins fresh and knows nothing of the desk."""

    def __init__(self) -> None:
        self._context = get_context("spawn")
        self._pids = self._context.SimpleQueue()
        self._pool: ProcessPoolExecutor | None = None
        self._lock = threading.Lock()

    def executor(self) -> Executor:
        """The processes; new ones where the former were ended."""
        with self._lock:
            if self._pool is None:
                most = max((os.cpu_count() or 2) - 1, 1)
                self._pool = ProcessPoolExecutor(most, self._context, initializer=_begin, initargs=(self._pids,))
            return self._pool

    def end_running(self) -> None:
        """End the processes, whatever they do."""
        with self._lock:
            pool, self._pool = self._pool, None
        if pool is None:
            return
        pool.shutdown(wait=False, cancel_futures=True)
        while not self._pids.empty():
            _end(self._pids.get())

    def close(self) -> None:
        self.end_running()


def _begin(pids: Any) -> None:
    end_with_parent()
    pids.put(os.getpid())


def _end(pid: int) -> None:
    try:
        os.kill(pid, 15)
    except ProcessLookupError:
        log.debug("process %s has ended already", pid)


class Cluster:
    """The workers of a Dask scheduler; needs the extra: pip install '.[cluster]'."""

    def __init__(self, address: str) -> None:
        """Raises JobError when it cannot be reached, or the extra is missing."""
        try:
            from distributed import Client
        except ImportError as wrong:
            raise JobError("For --jobs the extra is needed: pip install -e '.[cluster]'.") from wrong
        try:
            self._client = Client(address, timeout=4, set_as_default=False)
        except (OSError, ValueError) as wrong:
            raise JobError(f"The scheduler at {address} cannot be reached ({wrong}): see whether it runs.") from wrong
        self._executor: Executor = self._client.get_executor()

    def executor(self) -> Executor:
        return self._executor

    def end_running(self) -> None:
        """What runs on a cluster is left to end; what was not begun is not."""

    def close(self) -> None:
        self._client.close()


@dataclass
class Job:
    """One job. Changed by its own thread only."""

    id: str
    who: str
    name: str
    of: int
    """How many calls it has."""
    done: int = 0
    state: State = "running"
    problem: str = ""
    result: Any = None
    stopping: threading.Event = field(default_factory=threading.Event)

    def out(self) -> dict[str, Any]:
        """As browsers see it."""
        return {key: getattr(self, key) for key in ("id", "who", "name", "of", "done", "state", "problem")}


class Jobs:
    """The jobs of a desk. `tell` is called whenever one of them has got on, and may not wait."""

    def __init__(self, runs: Local | Cluster | None = None, tell: Callable[[list[dict[str, Any]]], None] | None = None):
        self._runs = runs or Local()
        self._tell = tell or (lambda _: None)
        self._jobs: dict[str, Job] = {}
        self._lock = threading.Lock()
        self._ids = itertools.count(1)

    def start(self, who: str, name: str, calls: Sequence[Call], then: Callable[[list[Any]], Any]) -> str:
        """Begin a job: the calls elsewhere, then `then` with their answers here; what it gives is the result."""
        job = Job(f"job-{next(self._ids)}", who, name, len(calls))
        with self._lock:
            self._jobs[job.id] = job
            over = [one.id for one in self._jobs.values() if one.state != "running"][:-KEPT]
            for old in over:
                del self._jobs[old]
        threading.Thread(target=self._run, args=(job, list(calls), then), name=job.id, daemon=True).start()
        return job.id

    def _run(self, job: Job, calls: list[Call], then: Callable[[list[Any]], Any]) -> None:
        self.told()
        try:
            answers = self._answers(job, calls)
            if answers is None:
                job.state = "stopped"
            else:
                job.result = then(answers)
                job.state = "done"
        except BrokenExecutor:
            # The others of that pool are of no use any more.
            self._runs.end_running()
            end = "one of its processes was ended from outside: see that memory is free, and begin it again."
            job.problem = f"{job.name}: {end}"
            job.state = "failed"
        except Exception as wrong:  # whatever a call raises is told to who asked for it
            if not isinstance(wrong, JobError | FormatError | ShowFileError):
                log.exception("a job failed")
            job.problem = str(wrong) or type(wrong).__name__
            job.state = "failed"
        self.told()

    def _answers(self, job: Job, calls: list[Call]) -> list[Any] | None:
        """The answers in the order of the calls; None when it was stopped."""
        if not calls:
            return []
        executor = self._runs.executor()
        futures: list[Future[Any]] = [executor.submit(call.function, *call.args) for call in calls]
        waiting = set(futures)
        while waiting:
            ended, waiting = wait(waiting, LOOK_S, FIRST_COMPLETED)
            if job.stopping.is_set():
                self._give_up(job, waiting)
                return None
            if ended:
                for future in ended:
                    future.result()
                job.done += len(ended)
                self.told()
        return [future.result() for future in futures]

    def elsewhere(self, call: Call) -> Any:
        """The answer of one call that is no job of its own: nobody sees or stops it. Raises what the call raises, and
        JobError where its process was ended twice."""
        for _ in range(2):
            try:
                return self._runs.executor().submit(call.function, *call.args).result()
            except CancelledError:
                log.debug("a call was cancelled beside a job that was stopped")
            except BrokenExecutor:
                self._runs.end_running()
        raise JobError("One of the program's processes was ended from outside: see that memory is free, and ask again.")

    def _give_up(self, job: Job, waiting: set[Future[Any]]) -> None:
        for future in waiting:
            future.cancel()
        # Held until they are ended: a job that begins meanwhile has to have new processes.
        with self._lock:
            others = [one for one in self._jobs.values() if one.state == "running" and one is not job]
            # What runs for this job alone is ended; beside another's work it is left to end by itself.
            if waiting and not others:
                self._runs.end_running()

    def told(self) -> None:
        """Tell how far they are."""
        self._tell(self.report())

    def report(self) -> list[dict[str, Any]]:
        """All jobs that run, and those whose result nobody fetched."""
        with self._lock:
            return [job.out() for job in self._jobs.values()]

    def stop(self, job_id: str) -> None:
        """Stop a job. Raises JobError when it is not there."""
        self._job(job_id).stopping.set()

    def fetch(self, job_id: str) -> tuple[dict[str, Any], Any]:
        """How far a job is, and its result; one that has ended is forgotten with this. Raises JobError."""
        job = self._job(job_id)
        if job.state != "running":
            with self._lock:
                self._jobs.pop(job_id, None)
            self.told()
        return job.out(), job.result

    def _job(self, job_id: str) -> Job:
        found = self._jobs.get(job_id)
        if found is None:
            raise JobError("That job is no longer there: it was fetched already, or the program was started again.")
        return found

    def close(self) -> None:
        """Stop everything."""
        for job in list(self._jobs.values()):
            job.stopping.set()
        self._runs.close()
