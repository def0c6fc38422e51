"""Prints the API's OpenAPI document, from which the web client's types are generated."""

import json
import sys

from rundgang.api.app import create_app
from rundgang.settings import Settings

NOWHERE = "postgresql://nobody@127.0.0.1:1/none"
"""The document needs an application, not a database: nothing connects."""


def main() -> None:
    """Write the document to standard output."""
    json.dump(create_app(NOWHERE, Settings()).openapi(), sys.stdout, indent=1)


if __name__ == "__main__":
    main()
