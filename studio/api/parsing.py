"""What is sent is read with care: no NaN, no halves of characters; and what is wrong is said plainly."""

import json
import re
from typing import Any

from django.http import HttpRequest
from ninja.errors import HttpError
from ninja.parser import Parser

from sunlatch.errors import SunLatchError

_HALF = re.compile(rb"\\u[dD][89a-fA-F]")


class NoTextError(SunLatchError):
    """Something sent that is no text."""


def _no_number(name: str) -> float:
    raise NoTextError(f"{name} is not a number that can be used here")


class PlainParser(Parser):
    """JSON as it is written down: its numbers are numbers, its characters whole."""

    def parse_body(self, request: HttpRequest) -> Any:
        """The body. Raises NoTextError, or HttpError where it is no JSON."""
        try:
            data = json.loads(request.body, parse_constant=_no_number)
        except (json.JSONDecodeError, UnicodeDecodeError, RecursionError) as error:
            raise HttpError(400, "The request was damaged; reload the page.") from error
        if _HALF.search(request.body):
            try:
                json.dumps(data, ensure_ascii=False).encode()
            except UnicodeEncodeError as error:
                raise NoTextError("the request was damaged: reload the page") from error
        return data


WORDS = {
    "missing": "is missing",
    "finite_number": "must be a number",
    "float_parsing": "must be a number",
    "float_type": "must be a number",
    "int_parsing": "must be a whole number",
    "int_type": "must be a whole number",
    "string_type": "must be text",
}


def plainly(error: dict[str, Any]) -> str:
    """A fault of a request as a sentence: the last name on the way to it, and what is wrong."""
    names = [
        str(part) for part in error["loc"] if part not in ("body", "query", "path", "given", "look", "place")
    ]
    what = names[-1].replace("_", " ") if names else "what was sent"
    text = WORDS.get(error["type"]) or str(error["msg"])[0].lower() + str(error["msg"])[1:]
    return (
        f"{what[0].upper()}{what[1:]} {text}."
        if error["type"] in WORDS
        else f"{what[0].upper()}{what[1:]}: {text}."
    )
