# guide.json lists the pages. JSON has no comments for marks, so a script does it.
path = "site/guide.json"
guide = json.decode(project.read(path))
pages = ["index"] + values.pages
if guide["pages"] != pages or guide["search"] != values.search:
    guide["pages"] = pages
    guide["search"] = values.search
    project.write(path, json.indent(json.encode(guide), indent = "  ") + "\n")
