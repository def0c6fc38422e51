"""The routes of the account: a line's hours with a cause for each missing pack, and accounts beside each other."""

from datetime import datetime
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Response
from pydantic import Field

from rundgang.api.deps import XLSX, Author, Now, Planned, Store
from rundgang.core.model import Id, Lines, Model
from rundgang.formats.account_files import account_page, account_workbook, table_workbook
from rundgang.formats.accounted import AccountBy, AccountTable, LineAccount, Note
from rundgang.formats.clock import zone_of
from rundgang.formats.pdf import pdf_of
from rundgang.jobs.account_tables import account_table
from rundgang.jobs.accounting import line_account
from rundgang.jobs.handover import hand_over, newest_note

router = APIRouter(prefix="/api/account")

Moment = Annotated[datetime | None, Query(description="on the plant's clock, rounded to a whole hour")]


@router.get("")
def account(store: Store, now: Now, line: Id, since: Moment = None, until: Moment = None) -> LineAccount:
    """A line's account; without moments of the last eight hours that are over."""
    return line_account(store, now, line, since, until)


@router.get("/account.pdf", response_class=Response)
def account_pdf(store: Store, now: Now, line: Id, since: Moment = None, until: Moment = None) -> Response:
    """The same on paper."""
    found, zone = line_account(store, now, line, since, until), zone_of(store.windows.scenario())
    headers = {"Content-Disposition": f'attachment; filename="account-{line}.pdf"'}
    return Response(pdf_of(account_page(found, zone)), media_type="application/pdf", headers=headers)


@router.get("/account.xlsx", response_class=Response)
def account_xlsx(store: Store, now: Now, line: Id, since: Moment = None, until: Moment = None) -> Response:
    """The same as a workbook: the hours, the losses by cause, and the records beneath."""
    found, zone = line_account(store, now, line, since, until), zone_of(store.windows.scenario())
    headers = {"Content-Disposition": f'attachment; filename="account-{line}.xlsx"'}
    return Response(account_workbook(found, zone), media_type=XLSX, headers=headers)


@router.get("/table")
def table(
    store: Store, now: Now, by: AccountBy, line: Id | None = None, since: Moment = None, until: Moment = None
) -> AccountTable:  # fmt: skip
    """Accounts beside each other, of a line or of all."""
    return account_table(store, now, by, line, since, until)


@router.get("/table.xlsx", response_class=Response)
def table_xlsx(
    store: Store, now: Now, by: AccountBy, line: Id | None = None, since: Moment = None, until: Moment = None
) -> Response:  # fmt: skip
    """The same as a workbook."""
    found = account_table(store, now, by, line, since, until)
    headers = {"Content-Disposition": f'attachment; filename="accounts-by-{by}.xlsx"'}
    return Response(table_workbook(found, zone_of(store.windows.scenario())), media_type=XLSX, headers=headers)


class NoteRequest(Model):
    """What whoever leaves a line tells whoever comes."""

    uuid: UUID
    line: Id
    says: Lines = Field(min_length=1, max_length=2_000)
    author: Author = "planner"


@router.post("/notes", status_code=201)
def note(store: Planned, now: Now, request: NoteRequest) -> Note:
    """Hand a line over. Sent twice, it is there once."""
    return hand_over(store, now, request.uuid, request.line, request.says, request.author)


@router.get("/notes/newest")
def newest(store: Store, now: Now, line: Id) -> Note | None:
    """What was handed over last on a line within a day."""
    return newest_note(store, now, line)
