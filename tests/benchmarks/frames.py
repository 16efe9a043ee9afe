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
from tests.benchmarks.measure import Row
from tests.benchmarks.server import server

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
  return frames / ((performance.now() - began) / 1000);
}
"""


def _module() -> str:
    """Return the name under which the map's script is served: the page imports the same."""
    from django.contrib.staticfiles.storage import staticfiles_storage

    return staticfiles_storage.url("maps/map.js").rpartition("/")[2]


def rows() -> Iterator[Row]:
    user = User.objects.get_or_create(username="panning", defaults={"team": Team.objects.order_by("pk").first()})[0]
    client = Client()
    client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
    with server() as port, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        context = browser.new_context(viewport={"width": 1280, "height": 800})
        address = f"http://127.0.0.1:{port}"
        key = client.session.session_key or ""
        context.add_cookies([{"name": settings.SESSION_COOKIE_NAME, "value": key, "url": address}])
        page = context.new_page()
        page.goto(f"{address}/?face=map&q={quote('county: Tamarack, Pike Hollow')}")
        page.wait_for_function("document.querySelector('#map-says')?.textContent.includes('matches')", timeout=120_000)
        page.click("text=Where most are")
        page.locator(".most button").first.click(timeout=60_000)
        page.focus("#map")
        page.wait_for_timeout(3_000)
        seen = int(page.inner_text("#map-says").split()[0].replace(",", ""))
        # Farther out until enough are in view.
        for _ in range(6):
            if seen >= LEAST:
                break
            page.keyboard.press("-")
            page.wait_for_timeout(4_000)
            seen = int(page.inner_text("#map-says").split()[0].replace(",", ""))
        is_on_grid = "grid" in page.inner_text("#map-says")
        page.wait_for_timeout(2_000)
        a_second = page.evaluate(_PAN.replace("MAP", repr(_module())), {"seconds": SECONDS})
        browser.close()
    how = "on a grid" if is_on_grid else "drawn"
    print(f"  {seen:,} matches near, {how}: {a_second:.0f} frames a second")
    what = f"a frame of the map while it is panned, {seen:,} matches {how}, against {FRAMES} a second"
    yield Row(what, 1000 / a_second, 1000 / FRAMES, 1.0)
