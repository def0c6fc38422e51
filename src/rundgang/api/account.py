"""The routes of the account: a line's hours with a cause for each missing pack, as a page, on paper, in a workbook."""

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query, Response

from rundgang.api.deps import XLSX, Now, Store
from rundgang.core.model import Id
from rundgang.formats.account_files import account_page, account_workbook
from rundgang.formats.clock import zone_of
from rundgang.formats.pdf import pdf_of
from rundgang.jobs.accounting import LineAccount, line_account

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
    names = found.name, found.since.astimezone(zone), found.until.astimezone(zone), found.stations
    headers = {"Content-Disposition": f'attachment; filename="account-{line}.pdf"'}
    return Response(pdf_of(account_page(found.account, *names)), media_type="application/pdf", headers=headers)


@router.get("/account.xlsx", response_class=Response)
def account_xlsx(store: Store, now: Now, line: Id, since: Moment = None, until: Moment = None) -> Response:
    """The same as a workbook: the hours, and the losses by cause."""
    found, zone = line_account(store, now, line, since, until), zone_of(store.windows.scenario())
    data = account_workbook(found.account, found.since.astimezone(zone), found.stations)
    headers = {"Content-Disposition": f'attachment; filename="account-{line}.xlsx"'}
    return Response(data, media_type=XLSX, headers=headers)
