"""Certificates of a cluster: one folder that is copied to every machine of it, and to nobody else.

Whoever holds it may start code on the workers; whoever does not can neither connect nor listen (TLS with certificates on both sides).
"""

from __future__ import annotations

import os
from datetime import UTC, datetime, timedelta
from pathlib import Path

from hasty_reel.errors import WrongInput, reason

KEY_FILES = ("ca.pem", "machine.pem", "machine.key")
"""The certificate that vouches for the others, that of every machine of the cluster, and its key."""
LONGEST_DAYS = 3650


def make_keys(folder: Path, days: int = 365) -> None:
    """Make the certificates of a cluster; the key that vouches for them is thrown away, so that no other can be made.

    Parameters
    ----------
    folder : that does not hold any yet
    days : for which they are good

    Raises
    ------
    WrongInput
        When there are some already, the folder cannot be written, or the library is not installed.
    """
    if not 1 <= days <= LONGEST_DAYS:
        raise WrongInput(f"cluster-keys: {days} days; expected 1 to {LONGEST_DAYS}.")
    try:
        from cryptography import x509
        from cryptography.hazmat.primitives import hashes, serialization
        from cryptography.hazmat.primitives.asymmetric import ec
        from cryptography.x509.oid import NameOID
    except ImportError:
        raise WrongInput("cluster-keys needs the library cryptography; install hasty-reel with its extra 'cluster'.") from None
    there = [name for name in KEY_FILES if (folder / name).exists()]
    if there:
        raise WrongInput(f"{folder}: holds {there[0]} already; expected a folder without, so that no cluster loses its keys.")
    now = datetime.now(UTC)

    def _certificate(name: str, key: ec.EllipticCurvePrivateKey, issuer: str, by: ec.EllipticCurvePrivateKey, vouches: bool) -> bytes:
        subject, vouched_by = (x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, text)]) for text in (name, issuer))
        builder = x509.CertificateBuilder().subject_name(subject).issuer_name(vouched_by).public_key(key.public_key())
        builder = builder.serial_number(x509.random_serial_number())
        builder = builder.not_valid_before(now - timedelta(minutes=5)).not_valid_after(now + timedelta(days=days))
        builder = builder.add_extension(x509.BasicConstraints(ca=vouches, path_length=0 if vouches else None), critical=True)
        made: bytes = builder.sign(by, hashes.SHA256()).public_bytes(serialization.Encoding.PEM)
        return made

    vouching, machine = ec.generate_private_key(ec.SECP256R1()), ec.generate_private_key(ec.SECP256R1())
    key = machine.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )  # fmt: skip
    texts = (
        _certificate("Hasty Reel cluster", vouching, "Hasty Reel cluster", vouching, True),
        _certificate("Hasty Reel machine", machine, "Hasty Reel cluster", vouching, False),
        key,
    )
    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        for name, text in zip(KEY_FILES, texts):
            handle = os.open(folder / name, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW, 0o600)
            with open(handle, "wb") as stream:
                stream.write(text)
    except OSError as error:
        raise WrongInput(f"{folder}: keys cannot be written there ({reason(error)}).") from error
