"""Passwords and tokens: what is kept of them is a digest only."""

from __future__ import annotations

import hashlib
import secrets
import threading
from typing import Final

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from jentrow.core.errors import UnusableInput

SHORTEST_PASSWORD: Final = 10
LONGEST_PASSWORD: Final = 200

HASHER = PasswordHasher(memory_cost=19 * 1024, time_cost=2, parallelism=1)
"""Argon2id with the least cost that OWASP's password storage guide asks for: a class signs in at
once, on two cores."""

_AT_ONCE: Final = threading.BoundedSemaphore(2)
NOBODYS = HASHER.hash(secrets.token_hex())


def checked_password(password: str, login: str) -> str:
    """A password that may be chosen. Raises :class:`UnusableInput`."""
    if not SHORTEST_PASSWORD <= len(password) <= LONGEST_PASSWORD:
        raise UnusableInput(
            f"A password has {SHORTEST_PASSWORD} to {LONGEST_PASSWORD} characters; choose another."
        )
    if password.casefold() in (login.casefold(), login.casefold()[::-1]):
        raise UnusableInput("The password is the sign-in name; choose another.")
    if len(set(password)) < 4:
        raise UnusableInput("The password has fewer than 4 different characters; choose another.")
    return password


def hashed(password: str) -> str:
    """What is kept of a password."""
    with _AT_ONCE:
        return HASHER.hash(password)


def is_password(password: str, kept: str) -> bool:
    """Whether a password is the one of which ``kept`` was kept.

    Where nothing was kept it takes as long: how long an answer takes tells nobody who is here.
    """
    with _AT_ONCE:
        try:
            return HASHER.verify(kept or NOBODYS, password) and bool(kept)
        except (VerificationError, InvalidHashError):
            return False


def new_token() -> str:
    """A token that cannot be guessed, for a cookie or an address."""
    return secrets.token_urlsafe(32)


def token_digest(token: str) -> str:
    """What is kept of a token."""
    return hashlib.sha256(token.encode()).hexdigest()
