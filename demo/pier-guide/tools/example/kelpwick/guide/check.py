"""Checks that every link of the pier guide leads somewhere.

    python3 -m example.kelpwick.guide.check site
"""

import json
import sys
from html.parser import HTMLParser
from pathlib import Path


class Links(HTMLParser):
    """Collects what a page refers to."""

    def __init__(self):
        super().__init__()
        self.found = []

    def handle_starttag(self, tag, attributes):
        for name, value in attributes:
            if name in ("href", "src") and ":" not in value:
                self.found.append(value)


def faults(site):
    """Return what is wrong with a site: links and pages that are not there."""
    wrong = []
    for page in sorted(site.glob("*.html")):
        links = Links()
        links.feed(page.read_text(encoding="utf-8"))
        wrong += [f"{page.name}: {link}" for link in links.found if not (site / link).exists()]
    guide = json.loads((site / "guide.json").read_text(encoding="utf-8"))
    listed, there = set(guide["pages"]), {page.stem for page in site.glob("*.html")}
    wrong += [f"guide.json: {name}" for name in sorted(listed ^ there)]
    if guide["search"] != (site / "search.js").exists():
        wrong.append("guide.json: search")
    return wrong


if __name__ == "__main__":
    found = faults(Path(sys.argv[1]))
    print("\n".join(found) or "All links lead somewhere.")
    sys.exit(1 if found else 0)
