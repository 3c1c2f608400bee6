"""Who is let in: names, addresses, a password from elsewhere."""

import pytest

from glyptic.cli.main import main
from glyptic.web.access import PasswordFile
from glyptic.web.factory import LOOPBACK, create_app

PASSWORD = "a long sentence"


@pytest.fixture
def outside(shop):
    """A client of an application that asks for a password."""
    kept = PasswordFile(shop.store.folder / "password")
    kept.set(PASSWORD)
    app = create_app(shop, ["studio.example"], hashed=kept.read(), behind_tls=True)
    app.config["WTF_CSRF_ENABLED"] = False
    return app.test_client()


def ask(client, path="/", host="studio.example", **options):
    return client.get(path, headers={"Host": host, **options}, base_url=f"https://{host}")


def log_in(client, password):
    return client.post("/login", data={"password": password}, base_url="https://studio.example")


def test_nothing_is_shown_without_the_password(outside):
    for path in ("/", "/plates/1/", "/settings", "/pixels/00.rgba"):
        assert ask(outside, path).headers["Location"] == "/login"
    assert ask(outside, "/plates/1/log", Accept="application/json").status_code == 401
    assert outside.post("/plates", base_url="https://studio.example").status_code == 302


def test_the_password_opens_and_logging_out_closes(outside):
    assert log_in(outside, "wrong").status_code == 403 and ask(outside).status_code == 302
    answer = log_in(outside, PASSWORD)
    cookie = answer.headers["Set-Cookie"]
    assert all(flag in cookie for flag in ("Secure", "HttpOnly", "SameSite=Strict"))
    assert ask(outside).status_code == 200
    outside.post("/logout", base_url="https://studio.example")
    assert ask(outside).status_code == 302


def test_guessing_is_held_up_also_for_the_right_one(outside, monkeypatch):
    for _ in range(5):
        assert log_in(outside, "guess").status_code == 403
    assert log_in(outside, PASSWORD).status_code == 429
    monkeypatch.setattr("glyptic.web.access.WITHIN", 0)
    assert log_in(outside, PASSWORD).status_code == 302


def test_another_password_closes_every_door(shop, outside):
    log_in(outside, PASSWORD)
    outside.application.extensions["glyptic.door"].hashed = "another"
    assert ask(outside).status_code == 302


def test_the_password_is_kept_hashed_for_its_owner_only(shop, outside):
    path = shop.store.folder / "password"
    assert PASSWORD not in path.read_text() and path.stat().st_mode & 0o077 == 0


@pytest.mark.parametrize("host", ["127.0.0.1:8765", "[::1]:8765", "localhost:8765", "192.168.0.7"])
def test_addresses_and_our_names_are_answered(shop, host):
    client = create_app(shop, LOOPBACK).test_client()
    assert client.get("/", headers={"Host": host}).status_code == 200


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "localhost.evil.example:8765", "[::1"])
def test_a_name_that_leads_here_from_elsewhere_is_not(shop, host):
    client = create_app(shop, LOOPBACK).test_client()
    assert client.get("/", headers={"Host": host}).status_code == 400


def test_without_a_password_nobody_else_is_served(tmp_path, capsys, monkeypatch):
    monkeypatch.delenv("GLYPTIC_PASSWORD", raising=False)
    assert main(["serve", "--data", str(tmp_path), "--host", "0.0.0.0", "--port", "0"]) == 2
    assert "has not started" in capsys.readouterr().err
    monkeypatch.setenv("GLYPTIC_PASSWORD", "short")
    assert main(["serve", "--data", str(tmp_path), "--host", "0.0.0.0", "--port", "0"]) == 2
    assert "8 characters" in capsys.readouterr().err


def test_a_secret_that_was_not_written_is_made_anew(shop):
    path = shop.store.folder / "secret"
    path.touch()
    secret = create_app(shop).config["SECRET_KEY"]
    assert len(secret) == 64 and path.read_text() == secret and path.stat().st_mode & 0o077 == 0
    assert create_app(shop).config["SECRET_KEY"] == secret
