"""The web application: `/api`, the built front end, and who may ask."""

import asyncio
import re
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager, suppress

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.datastructures import Headers

from hemp_ladder import __version__
from hemp_ladder.api import decoding, problems
from hemp_ladder.api.events import Bell
from hemp_ladder.api.problems import problem
from hemp_ladder.api.routes import router
from hemp_ladder.core.memory import collect_seldom
from hemp_ladder.store.config import ROOT

_DIST = ROOT / "web" / "dist"
#: A host of ours with its port, and nothing else beside it.
_OUR_HOST = re.compile(r"(127\.0\.0\.1|localhost|\[::1\])(:\d{1,5})?", re.IGNORECASE)
#: Bytes of a request that is no upload.
_LARGEST = 64 << 20
_POLICY = (
    "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; "
    "img-src 'self' data: blob:; connect-src 'self' blob:; worker-src 'self' blob:; "
    "object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)


@asynccontextmanager
async def _life(app: FastAPI) -> AsyncIterator[None]:
    collect_seldom()
    app.state.bell = Bell()
    listening = asyncio.create_task(app.state.bell.run())
    yield
    decoding.close()
    listening.cancel()
    with suppress(asyncio.CancelledError):
        await listening


app = FastAPI(
    title="Hemp Ladder",
    version=__version__,
    lifespan=_life,
    docs_url=None,
    redoc_url=None,
    openapi_url="/api/openapi.json",
)
problems.install(app)
app.add_middleware(problems.Unforeseen)
app.include_router(router)


@app.middleware("http")
async def guard(request: Request, go_on: Callable[[Request], Awaitable[Response]]) -> Response:
    """Refuse requests that another site sent here, and tell browsers what a page may do."""
    if _foreign(request.headers):
        response: Response = problem(403, "foreign", "This address is served only to the machine it runs on.")
    elif b"\0" in request.scope["path"].encode() or b"%00" in request.scope.get("query_string", b""):
        response = problem(404, "not-found", "There is no such address.")
    elif request.url.path != "/api/uploads" and int(request.headers.get("content-length") or 0) > _LARGEST:
        size = f"{_LARGEST >> 20} MB"
        response = problem(413, "too-large", f"The request is larger than {size}.", "Decide on less at once.")
    elif request.url.path != "/api/uploads" and "transfer-encoding" in request.headers:
        response = problem(411, "length-required", "The request does not say how long it is.", "Send Content-Length.")
    else:
        response = await go_on(request)
    response.headers["Content-Security-Policy"] = _POLICY
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "no-referrer"
    return response


def _foreign(headers: Headers) -> bool:
    """Whether another site sent it: by the host it asks for, the page it comes from, or what the browser says."""
    host, origin = headers.get("host", ""), headers.get("origin")
    if not _OUR_HOST.fullmatch(host) or headers.get("sec-fetch-site") == "cross-site":
        return True
    # A page of ours comes from the very address, port included, that it asks.
    return origin is not None and origin not in (f"http://{host}", f"https://{host}")


@app.get("/api/docs", include_in_schema=False)
def docs() -> Response:
    """The documentation, from files that ship with the application."""
    return _file("docs.html")


if _DIST.is_dir():
    app.mount("/assets", StaticFiles(directory=_DIST / "assets"), name="assets")


@app.get("/{path:path}", include_in_schema=False)
def page(path: str) -> Response:
    """The front end; every address that is not a file is a view of it."""
    if path.startswith("api/"):
        return problem(404, "not-found", "There is no such address.")
    found = (_DIST / path).resolve()
    if path and found.is_relative_to(_DIST.resolve()) and found.is_file():
        return FileResponse(found)
    return _file("index.html")


def _file(name: str) -> Response:
    file = _DIST / name
    if not file.is_file():
        return problem(503, "not-built", "The front end is not built.", "Run ./ladder start.")
    return FileResponse(file, headers={"Cache-Control": "no-cache"})
