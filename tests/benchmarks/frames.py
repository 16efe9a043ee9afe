"""How smoothly the map moves with 10,000 matches in view: frames a second that a headless browser draws while the map is panned.

The map is moved by a few pixels at every animation frame, for some seconds, and what it draws is counted by its own event
``postrender``. Tiles and matches are loaded before; those that come into view while it moves are fetched as ever.
"""

from __future__ import annotations

from collections.abc import Iterator
from urllib.parse import quote

from django.conf import settings
from django.test import Client
from playwright.sync_api import sync_playwright

from jaded_ledger.accounts.models import Team, User
from jaded_ledger.records.models import ParcelFacts
from tests.benchmarks.measure import Row
from tests.benchmarks.server import server
from tests.support.browser import CHROMIUM

LEAST, FRAMES = 10_000, 45
SECONDS = 5
_PAN = """
async ({ seconds }) => {
  const { map } = await import(document.querySelector('script[src*="map_draw"]').src.replace(/map_draw[^/]*$/, MAP));
  let frames = 0;
  map.on("postrender", () => { frames += 1; });
  const view = map.getView();
  const [x, y] = view.getCenter();
  const step = view.getResolution() * 3;
  // As under a hand that drags it.
  view.beginInteraction();
  const began = performance.now();
  let number = 0;
  await new Promise((done) => {
    const move = () => {
      number += 1;
      // To and fro, so that it stays over the parcels.
      const along = Math.abs(((number + 60) % 240) - 120) - 60;
      view.setCenter([x + along * step, y + along * step * 0.4]);
      if (performance.now() - began < seconds * 1000) requestAnimationFrame(move);
      else done();
    };
    requestAnimationFrame(move);
  });
  const told = frames / ((performance.now() - began) / 1000);
  view.endInteraction();
  return told;
}
"""


def _module() -> str:
    """Return the name under which the map's script is served: the page imports the same."""
    from django.contrib.staticfiles.storage import staticfiles_storage

    return staticfiles_storage.url("maps/map.js").rpartition("/")[2]


def _around_downtown() -> str:
    """Return a search of all that lies around Alder Bay's middle: the copies of the world join there."""
    facts = ParcelFacts.objects.filter(parcel__number="12-090-008").first()
    assert facts is not None
    return f'within: 8 mi of point "{facts.latitude}, {facts.longitude}"'


def rows() -> Iterator[Row]:
    user = User.objects.get_or_create(username="panning", defaults={"team": Team.objects.order_by("pk").first()})[0]
    client = Client()
    client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
    search = _around_downtown()
    with server() as (port, _), sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
        context = browser.new_context(viewport={"width": 1280, "height": 800})
        address = f"http://127.0.0.1:{port}"
        key = client.session.session_key or ""
        context.add_cookies([{"name": settings.SESSION_COOKIE_NAME, "value": key, "url": address}])
        page = context.new_page()
        page.goto(f"{address}/?face=map&q={quote(search)}")
        says = page.locator("#map-says")
        says.filter(has_text="matches").wait_for(timeout=120_000)
        page.focus("#map")
        # Closer until parcels are drawn, and not counted on a grid.
        for _ in range(6):
            page.wait_for_timeout(3_000)
            if "grid" not in says.inner_text():
                break
            page.keyboard.press("+")
        seen = int(says.inner_text().split()[0].replace(",", ""))
        assert seen >= LEAST, seen
        page.wait_for_timeout(2_000)
        a_second = page.evaluate(_PAN.replace("MAP", repr(_module())), {"seconds": SECONDS})
        browser.close()
    print(f"  {seen:,} matches drawn: {a_second:.0f} frames a second")
    what = f"a frame of the map while it is panned, {seen:,} matches drawn, against {FRAMES} a second"
    yield Row(what, 1000 / a_second, 1000 / FRAMES, 1.0)
