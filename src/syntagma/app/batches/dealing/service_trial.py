"""A service asked what costs nothing: its list, and a number of a request that nobody ever sent. What comes shows slips of a profile that no reading of it can."""

from uuid import uuid4

import httpx

from syntagma.service.client import Client, Unreadable

_BAD = (httpx.HTTPError, httpx.InvalidURL, Unreadable, ValueError)


def slips(client: Client) -> list[str]:
    """What is wrong with the calls of a profile that cost nothing, as far as its service shows it; none where all is as it says."""
    service, found = client.service, []
    nobody = f"nobody-{uuid4().hex[:12]}"
    if service.listed:
        try:
            listing = client.listing()
            if listing.flaw:
                found.append(f"listed: what is not on the list would stay unclear: {listing.flaw}")
            elif listing.tasks and not any(reference for reference, _ in listing.tasks):
                found.append(f"listed: it shows {len(listing.tasks)} tasks, and none bears a number of ours where the profile says that it stands (reference)")
        except _BAD as error:
            found.append(f"listed: the list can't be had: {_said(error)}")
    if service.find:
        try:
            if client.find(nobody):
                found.append("find: it gives a task for a number that nobody ever sent")
            elif others := client.finds_others(nobody):
                found.append(f"find: it does not heed the number that it is given: {others} tasks came that bear another, or none")
        except _BAD as error:
            found.append(f"find: a look-up can't be had: {_said(error)}")
    if service.state:
        try:
            if client.ask(nobody) is not None:
                found.append("state: it tells of a task that there is not")
        except _BAD as error:
            found.append(f"state: of a task that there is not it does not say so by 404: {_said(error)}; a task that it has lost would be asked for again and again")
    return found


def _said(error: Exception) -> str:
    return str(error) if isinstance(error, Unreadable) else "the connection broke, or nobody answers"
