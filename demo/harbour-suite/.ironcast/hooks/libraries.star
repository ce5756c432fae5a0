# Adds the libraries that were named at the cast, each as module@version, to the
# build file of the core and to suite.json.
def split(library):
    parts = library.split("@")
    if len(parts) != 2 or parts[1][:1] != "v":
        refuse("%s is no library; write it as example.com/library@v1.2.3." % library)
    return parts

libraries = [split(library) for library in values.libraries]
if libraries:
    require = "".join(["\t%s %s\n" % (path, version) for path, version in libraries])
    project.write("core/go.mod", project.read("core/go.mod") + "\nrequire (\n" + require + ")\n")
    suite = json.decode(project.read("suite.json"))
    suite["libraries"] = {path: version for path, version in libraries}
    project.write("suite.json", json.indent(json.encode(suite), indent = "  ") + "\n")
    print("Added to core/go.mod: " + ", ".join(values.libraries))
