"""Which service a person lets a model speak to, with what holds the secret; and a trial of its
profile.
"""

import os
import re
from collections.abc import Iterator, Mapping
from contextlib import contextmanager, suppress
from typing import NamedTuple
from urllib.parse import urlsplit
from uuid import uuid4

import httpx

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Refused, Trouble
from syntagma.core.models.profile import Profile, Service
from syntagma.core.models.request_shape import as_json
from syntagma.core.notation.json_in import NoJson, read_json
from syntagma.core.notation.structure import changed
from syntagma.core.notation.toml import TomlFile, key, pair
from syntagma.service.client import Client, Unreadable, is_loopback, origin_of, secret_of
from syntagma.storage.files import held, make_folder, read_text, write_text
from syntagma.storage.folders import own_folder

# ──── Which service a person lets a model speak to: bound by them to its scheme, host and port,
# outside of any workspace (services.toml in their own folder), with what holds the secret. No file
# that came from somebody can bind one, or say where a secret goes.


SERVICES, HALTED = "services.toml", "halted.json"


class Bound(NamedTuple):
    """An origin (scheme, host, port) that a person allowed, and where its secret is: an environment
    variable, a file, or neither.
    """

    host: str
    env: str = ""
    file: str = ""

    @property
    def said(self) -> str:
        """Where the secret is, in words."""
        return (
            f"the environment variable {self.env}"
            if self.env
            else f"the file {self.file}"
            if self.file
            else "no secret"
        )


def bindings() -> dict[str, Bound]:
    """The services that this person allowed, by origin. Raises Refused if the file can't be
    read.
    """
    path = own_folder() / SERVICES
    if not path.is_file():
        return {}
    file = TomlFile(read_text(path, "your services"), str(path))
    found = {}
    services = file.values().get("services", {})
    for host, table in services.items() if isinstance(services, dict) else ():
        if isinstance(table, dict):
            good = file.good(table, {"env": str, "file": str}, "a service", host)
            with suppress(ValueError):
                name = origin_of(host)
                found[name] = Bound(name, good.get("env", ""), good.get("file", ""))
    if file.mistakes:
        raise Refused(file.mistakes)
    return found


def bind(host: str, env: str = "", file: str = "") -> Bound:
    """Allow a service, with the secret in a variable or a file. Raises Trouble if the host is not
    valid.
    """
    one = Bound(_origin(host), env, file)
    with _held():
        _write({**bindings(), one.host: one})
    return one


def unbind(host: str) -> bool:
    """Stop allowing a service; return whether it was allowed."""
    name = _origin(host)
    with _held():
        known = bindings()
        if known.pop(name, None) is None:
            return False
        _write(known)
    return True


def _origin(host: str) -> str:
    try:
        found = origin_of(host.strip().rstrip("/"))
    except ValueError:
        found = ""
    if not re.fullmatch(r"[\w.-]+|[0-9a-f:.]+", urlsplit(found).hostname or "") or urlsplit(
        found
    ).scheme not in ("http", "https"):
        raise Trouble(
            f"“{host}” is not a host",
            "write api.example, or an address: https://api.example:8443",
            2,
        )
    return found


@contextmanager
def _held() -> Iterator[None]:
    """Lock the list of services while it is read and written."""
    make_folder(own_folder())
    with held(own_folder() / SERVICES):
        yield


def _write(known: Mapping[str, Bound]) -> None:
    lines: list[str] = []
    for one in known.values():
        lines += [
            f"[services.{key(one.host)}]",
            *(pair(name, said) for name, said in (("env", one.env), ("file", one.file)) if said),
            "",
        ]
    write_text(own_folder() / SERVICES, "\n".join(lines))


# A service that charged more than it may


def halted() -> dict[str, str]:
    """The services that get no requests until a person has checked, each with the reason."""
    path = own_folder() / HALTED
    if not path.is_file():
        return {}
    try:
        found = read_json(read_text(path, "services that charged too much"))
    except NoJson as wrong:
        raise Trouble(
            f"{path} can't be read: {wrong}", "look at what your services charged, then delete it"
        ) from None
    return {str(host): str(why) for host, why in found.items()} if isinstance(found, dict) else {}


def halt(host: str, why: str) -> None:
    """Send nothing more to a service, from any workspace, until a person has checked."""
    make_folder(own_folder())
    with held(own_folder() / HALTED):
        write_text(own_folder() / HALTED, as_json({**halted(), host: why}) + "\n")


def resume(host: str) -> bool:
    """Use a service again after a person has checked; return whether it was halted."""
    name = _origin(host)
    make_folder(own_folder())
    with held(own_folder() / HALTED):
        known = halted()
        if known.pop(name, None) is None:
            return False
        write_text(own_folder() / HALTED, as_json(known) + "\n")
    return True


def service_of(workspace: Workspace, profile: Profile, at: str = "") -> tuple[Service, Bound]:
    """A model's service, and the origin that a person allowed for it. `at` is the address of the
    stand-in, for models whose service runs on this machine. Raises Trouble if the model has no
    service or nobody allowed it.
    """
    service = profile.service
    if service is None:
        raise Trouble(
            f"{profile.name} has no service in its profile",
            "describe it under [service] in the model's profile (syntagma help services)",
            2,
        )
    if at and is_loopback(service.address):
        if not is_loopback(_origin(at)):
            raise Trouble(
                f"{at} is not on this machine",
                "give the stand-in's address: --at http://127.0.0.1:8787",
                2,
            )
        service = changed(service, address=at)
    try:
        host = _origin(service.address)
    except Trouble:
        raise Trouble(
            f"{profile.name} would send to “{service.address}”, which is not an address",
            "correct address in [service] of its profile",
            2,
        ) from None
    if found := bindings().get(host):
        return service, found
    layers = [layer for layer, _ in workspace.models().get(profile.name, ())]
    if layers[-1:] == ["shipped"] and is_loopback(host):
        return service, Bound(host)  # the stand-in, by a profile that ships
    where = f"a model of the {layers[-1]}" if layers and layers[-1] != "own" else "the model"
    short = host.removeprefix("https://")
    raise Trouble(
        f"{where} {profile.name} would send to {short}, a host that you have not allowed",
        f"to allow it: syntagma service add {short} --env NAME (the variable that holds the"
        " secret), or --no-secret",
        2,
    )


def client_of(workspace: Workspace, profile: Profile, at: str = "") -> Client:
    """The client for a model's service. Raises Trouble."""
    service, bound = service_of(workspace, profile, at)
    return Client(service, secret_of({"env": bound.env, "file": bound.file}, os.environ))


# ──── A service asked what costs nothing: its list, and a number of a request that nobody ever
# sent. What comes shows slips of a profile that no reading of it can.


_BAD = (httpx.HTTPError, httpx.InvalidURL, Unreadable, ValueError)


def slips(client: Client) -> list[str]:
    """What is wrong with the free calls of a profile, as far as its service shows; empty if they
    work.
    """
    service, found = client.service, []
    nobody = f"nobody-{uuid4().hex[:12]}"
    if service.listed:
        try:
            listing = client.listing()
            if listing.flaw:
                found.append(
                    f"listed: tasks missing from the list would stay unclear: {listing.flaw}"
                )
            elif listing.tasks and not any(reference for reference, _ in listing.tasks):
                found.append(
                    f"listed: it shows {len(listing.tasks)} tasks, but none carries our number"
                    " where the profile says it should be (reference)"
                )
        except _BAD as error:
            found.append(f"listed: the list can't be read: {_said(error)}")
    if service.find:
        try:
            if client.find(nobody):
                found.append("find: it returns a task for a number that was never sent")
            elif others := client.finds_others(nobody):
                found.append(
                    f"find: it ignores the number: {others} tasks came with another number, or none"
                )
        except _BAD as error:
            found.append(f"find: the look-up failed: {_said(error)}")
    if service.state:
        try:
            if client.ask(nobody) is not None:
                found.append("state: it reports on a task that does not exist")
        except _BAD as error:
            found.append(
                f"state: it does not answer 404 for a task that does not exist: {_said(error)};"
                " Syntagma would ask for a lost task again and again"
            )
    return found


def _said(error: Exception) -> str:
    return (
        str(error) if isinstance(error, Unreadable) else "the connection broke, or nothing answered"
    )
