"""`python -m bench.served DATA PORT`: the application, with an eye on its event loop; SIGTERM prints the longest block."""

import asyncio
import signal
import sys
import time
from pathlib import Path

import uvicorn

from copper_sieve.api.app import create_app
from copper_sieve.server.postgres import running_postgres
from copper_sieve.store.database import migrate, open_pool

_LOOK_EVERY_S = 0.002


async def watched(server: uvicorn.Server) -> tuple[float, float]:
    """Serve until told to stop; of the time since the last SIGUSR1, in seconds.

    Returns
    -------
    late : by which the loop was latest, whatever kept it: its own work, other threads, other programs on the same cores
    own : the most that it worked itself without a pause
    """
    loop, worst = asyncio.get_running_loop(), [0.0, 0.0]
    loop.add_signal_handler(signal.SIGUSR1, lambda: worst.__setitem__(slice(None), [0.0, 0.0]))
    serving = asyncio.create_task(server.serve())
    while not serving.done():
        before, worked = time.perf_counter(), time.thread_time()
        await asyncio.sleep(_LOOK_EVERY_S)
        worst[0] = max(worst[0], time.perf_counter() - before - _LOOK_EVERY_S)
        worst[1] = max(worst[1], time.thread_time() - worked)
    return worst[0], worst[1]


def main(data: Path, port: int) -> None:
    with running_postgres(data) as url:
        with open_pool(url) as pool, pool.connection() as conn:
            migrate(conn)
        config = uvicorn.Config(create_app(url, data), host="127.0.0.1", port=port, log_level="warning", access_log=False)
        signal.signal(signal.SIGTERM, signal.SIG_IGN)  # uvicorn takes it, stops, and raises it again for us
        late, own = asyncio.run(watched(uvicorn.Server(config)))
    print(f"event loop: at most {own * 1000:.0f} ms of its own work at once (aim 50), {late * 1000:.0f} ms late", flush=True)


if __name__ == "__main__":
    main(Path(sys.argv[1]), int(sys.argv[2]))
