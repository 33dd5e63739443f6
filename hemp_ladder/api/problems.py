"""Errors as RFC 9457 problem documents: a code, a sentence, what to do, and the fields. Also those nobody foresaw."""

import logging

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import ValidationError
from sqlalchemy.exc import DataError, InterfaceError, OperationalError
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hemp_ladder.api.views import FieldProblem, Problem
from hemp_ladder.core.errors import LadderError
from hemp_ladder.core.lengths import LengthError
from hemp_ladder.work.actions import Conflict
from hemp_ladder.work.sources import NothingThere

_log = logging.getLogger("uvicorn.error")
#: So many faults of a request are told at once.
_MOST_ERRORS = 50


def problem(
    status: int,
    code: str,
    detail: str,
    remedy: str = "",
    errors: list[FieldProblem] | None = None,
    doubt: tuple[int, int] | None = None,
) -> JSONResponse:
    """An answer that says what went wrong and what to do; `errors` about fields, `doubt` a place in typed text."""
    body = Problem(
        title=code.replace("-", " ").capitalize(), status=status, detail=_text(detail), code=code, remedy=remedy,
        field=errors[0].field or None if errors else None, errors=errors or [], doubt=doubt,
    )  # fmt: skip
    return JSONResponse(body.model_dump(), status, media_type="application/problem+json")


def _text(told: str) -> str:
    """Words of strangers can hold halves of characters, which no answer can carry."""
    return told.encode("utf-8", "replace").decode()


class Unforeseen:
    """The layer around all resources: what nobody foresaw is told as a problem too, and stands in the log."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        begun = False

        async def watched(message: Message) -> None:
            nonlocal begun
            begun = begun or message["type"] == "http.response.start"
            await send(message)

        try:
            await self._app(scope, receive, watched)
        except Exception as error:
            if begun or scope["type"] != "http":
                raise
            _log.exception("unforeseen")
            detail = f"Something went wrong on our side ({type(error).__name__})."
            await problem(500, "unforeseen", detail, "It stands in the log. Try again.")(scope, receive, send)


def install(app: FastAPI) -> None:
    """Answer every error of ours, of validation, of routing and of the database in the same form."""

    @app.exception_handler(LadderError)
    async def ours(_: Request, error: LadderError) -> JSONResponse:
        status = 404 if isinstance(error, NothingThere) else 409 if isinstance(error, Conflict) else 422
        doubt = (error.at, error.length) if isinstance(error, LengthError) else None
        return problem(status, error.code, error.message, error.remedy, doubt=doubt)

    @app.exception_handler(ValidationError)
    @app.exception_handler(RequestValidationError)
    async def invalid(_: Request, error: ValidationError | RequestValidationError) -> JSONResponse:
        told = [
            FieldProblem(
                field=_text(".".join(str(step) for step in item["loc"] if step not in ("body", "query", "path"))[:200]),
                detail=_text(str(item["msg"]).removeprefix("Value error, ")),
            )
            for item in error.errors()[:_MOST_ERRORS]
        ]
        return problem(422, "settings", f"{told[0].field or 'The request'}: {told[0].detail}.", errors=told)

    @app.exception_handler(HTTPException)
    async def routing(_: Request, error: HTTPException) -> JSONResponse:
        code = {404: "not-found", 405: "not-allowed", 413: "too-large"}.get(error.status_code, "refused")
        return problem(error.status_code, code, str(error.detail))

    @app.exception_handler(OperationalError)
    @app.exception_handler(InterfaceError)
    async def away(_: Request, error: Exception) -> JSONResponse:
        _log.warning("the database is away: %s", str(error).splitlines()[0])
        return problem(503, "away", "The database is away.", "It is being brought back; this goes on by itself.")

    @app.exception_handler(DataError)
    async def unfit(_: Request, error: DataError) -> JSONResponse:
        _log.warning("refused by the database: %s", error.orig)
        return problem(422, "settings", "The request holds something that cannot be stored.")
