"""A service asked what costs nothing: its list, and a number of a request that nobody ever sent. What comes shows slips of a profile that no reading of it can."""

from uuid import uuid4

import httpx

from syntagma.service.client import Client, Unreadable

_BAD = (httpx.HTTPError, httpx.InvalidURL, Unreadable, ValueError)


def slips(client: Client) -> list[str]:
    """What is wrong with the calls of a profile that cost nothing, as far as its service shows it; none if all is as it says."""
    service, found = client.service, []
    nobody = f"nobody-{uuid4().hex[:12]}"
    if service.listed:
        try:
            listing = client.listing()
            if listing.flaw:
                found.append(f"listed: tasks missing from the list would stay unclear: {listing.flaw}")
            elif listing.tasks and not any(reference for reference, _ in listing.tasks):
                found.append(f"listed: it shows {len(listing.tasks)} tasks, but none carries our number where the profile says it should be (reference)")
        except _BAD as error:
            found.append(f"listed: the list can't be read: {_said(error)}")
    if service.find:
        try:
            if client.find(nobody):
                found.append("find: it returns a task for a number that was never sent")
            elif others := client.finds_others(nobody):
                found.append(f"find: it ignores the number: {others} tasks came with another number, or none")
        except _BAD as error:
            found.append(f"find: the look-up failed: {_said(error)}")
    if service.state:
        try:
            if client.ask(nobody) is not None:
                found.append("state: it reports on a task that does not exist")
        except _BAD as error:
            found.append(f"state: it does not answer 404 for a task that does not exist: {_said(error)}; Syntagma would ask for a lost task again and again")
    return found


def _said(error: Exception) -> str:
    return str(error) if isinstance(error, Unreadable) else "the connection broke, or nothing answered"
