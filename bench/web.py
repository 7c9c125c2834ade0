"""Median time of a preview call through the whole stack, and the size of the first script.

Usage, while bin/demo runs: .venv/bin/python -m bench.web [URL]
"""

from __future__ import annotations

import gzip
import json
import re
import sys
import time
import urllib.request
from http.cookiejar import CookieJar
from pathlib import Path
from statistics import median
from typing import Any

DIST = Path(__file__).parents[1] / "web" / "dist"


def main() -> None:
    url = sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8010"
    jar = CookieJar()
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))

    def call(method: str, path: str, body: Any = None) -> Any:
        token = next((c.value for c in jar if c.name == "csrftoken"), "") or ""
        request = urllib.request.Request(
            f"{url}/api/v1{path}",
            method=method,
            data=None if body is None else json.dumps(body).encode(),
            headers={"Content-Type": "application/json", "X-CSRFToken": token, "Referer": url},
        )
        with opener.open(request) as answer:
            return json.load(answer)

    call("GET", "/auth/me")
    shed = call("POST", "/demo/open", {})["workshops"][0]["id"]
    machines = call("GET", f"/workshops/{shed}")["machines"]
    check_id = next(c["open_check"] for m in machines for c in m["checks"] if c["open_check"])
    round_id = call("GET", f"/checks/{check_id}")["rounds"][-1]["id"]
    times = []
    for i in range(200):
        began = time.perf_counter()
        body = {"station": "3", "text": f"+{i % 40} div", "unit": "div"}
        call("POST", f"/rounds/{round_id}/preview", body)
        times.append((time.perf_counter() - began) * 1000)
    print(f"preview, median of {len(times)}: {median(times):.1f} ms")
    page = (DIST / "index.html").read_text()
    scripts = re.findall(r'(?:src|href)="/(assets/[^"]+\.js)"', page)
    size = sum(len(gzip.compress((DIST / s).read_bytes(), 9)) for s in scripts)
    print(f"first script, compressed: {size / 1000:.0f} kB in {len(scripts)} files")


if __name__ == "__main__":
    main()
