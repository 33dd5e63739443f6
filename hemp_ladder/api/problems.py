"""Errors as RFC 9457 problem documents: a code, a sentence, what to do, and the field."""

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import ValidationError
from starlette.exceptions import HTTPException

from hemp_ladder.api.views import Problem
from hemp_ladder.core.errors import LadderError
from hemp_ladder.core.lengths import LengthError
from hemp_ladder.work.actions import NothingThere


def problem(
    status: int,
    code: str,
    detail: str,
    remedy: str = "",
    field: str | None = None,
    doubt: tuple[int, int] | None = None,
) -> JSONResponse:
    body = Problem(
        title=code.replace("-", " ").capitalize(), status=status, detail=detail, code=code, remedy=remedy, field=field,
        doubt=doubt,
    )  # fmt: skip
    return JSONResponse(body.model_dump(), status, media_type="application/problem+json")


def install(app: FastAPI) -> None:
    """Answer every error of ours, of validation and of routing in the same form."""

    @app.exception_handler(LadderError)
    async def ours(_: Request, error: LadderError) -> JSONResponse:
        status = 404 if isinstance(error, NothingThere) else 422
        doubt = (error.at, error.length) if isinstance(error, LengthError) else None
        return problem(status, error.code, error.message, error.remedy, doubt=doubt)

    @app.exception_handler(ValidationError)
    @app.exception_handler(RequestValidationError)
    async def invalid(_: Request, error: ValidationError | RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        field = ".".join(str(step) for step in first["loc"] if step not in ("body", "query", "path"))
        return problem(422, "settings", f"{field or 'The request'}: {first['msg']}.", field=field or None)

    @app.exception_handler(HTTPException)
    async def routing(_: Request, error: HTTPException) -> JSONResponse:
        code = {404: "not-found", 405: "not-allowed", 413: "too-large"}.get(error.status_code, "refused")
        return problem(error.status_code, code, str(error.detail))
