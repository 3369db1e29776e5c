"""Try-outs over the API: they change nothing, and what they set can be taken."""

from __future__ import annotations

from pathlib import Path

from fastapi.testclient import TestClient

from tests.web.test_api import ITEM, bring, change


def test_try_outs_change_nothing_and_can_be_taken(client: TestClient, pictures: Path) -> None:
    job = bring(client, (pictures / "kettle.jpg").read_bytes(), "kettle.jpg")
    address = f"/api/jobs/{job['id']}/items/{ITEM}/try-outs"
    recipes = client.post(f"{address}/recipes", json={}).json()
    assert len(recipes) >= 9
    tones = next(recipe for recipe in recipes if recipe["code"] == "tones")
    tried = client.post(address, json={"colours": tones["colours"], "lines": tones["lines"]}).json()
    assert 0 < tried["likeness"] <= 100 and tried["minutes"] > 0 and len(tried["layers"]) == tones["values"]["count"]
    assert client.get(f"/api/jobs/{job['id']}").json()["revision"] == job["revision"]
    variants = client.post(f"{address}/recipes", json={"colours": tones["colours"], "like_this": True}).json()
    assert {"finer", "bolder", "drawn"} <= {recipe["code"] for recipe in variants}
    taken = change(client, job, "colours", **tones["colours"])
    assert taken["undo"]["values"]["treatment"] == "lightness"
    facts = client.get(f"/api/jobs/{job['id']}/result").json()["items"][0]["facts"]["colours"]
    assert len(facts["tones"]["thresholds"]) == 3 and len(facts["palette"]) == 4
    refused = client.post(address, json={"colours": {"fine_mm": 900}})
    assert refused.status_code == 422 and "fine_mm" in str(refused.json()["details"])
    nothing = client.post(address, json={"colours": {"kind": "photo", "thresholds": [5.0, 1.0]}})
    assert nothing.status_code == 422
