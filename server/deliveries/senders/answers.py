"""What HTTP says, as senders tell it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

import httpx

from server.deliveries.senders.base import SECONDS, Refused, Wait


@contextmanager
def translated(account: str) -> Iterator[None]:
    """Turn what an HTTP library raises into ours."""
    try:
        yield
    except httpx.TimeoutException as error:
        raise Wait(
            account,
            expected=f"an answer within {SECONDS} s",
            found="none",
            remedy="It is tried again; look whether the other side works.",
        ) from error
    except (httpx.InvalidURL, httpx.UnsupportedProtocol) as error:
        raise Refused(
            account,
            expected="an address that begins with http:// or https://",
            found="another one",
            remedy="Correct the account's address.",
        ) from error
    except httpx.HTTPError as error:
        raise Wait(
            account,
            expected="a connection that holds",
            found="one that was refused or cut",
            remedy="It is tried again; look whether the address is right.",
        ) from error


def told_by_status(account: str, answer: httpx.Response, what: str, said: str = "") -> Refused | Wait:
    """What an answer other than success means. what: the thing that was sent. said: the other side's words."""
    status = answer.status_code
    found = f"{said} ({status})" if said else f"the answer {status}"
    if status == 429 or status >= 500:
        if status == 507:
            return Refused(
                account,
                expected=f"room for {what}",
                found="a full store",
                remedy="Free some room there, then send it again.",
            )
        after = answer.headers.get("retry-after", "")
        seconds = float(after) if after.isdecimal() else None
        return Wait.after(seconds, account, expected=f"that it takes {what}", found=found, remedy="It is tried again.")
    if status in (401, 403):
        remedy = "Correct the account's name or secret, then send it again."
        return Refused(account, expected="that it lets us in", found=found, remedy=remedy)
    return Refused(account, expected=f"that it takes {what}", found=found, remedy="Mend that, then send it again.")
