# A region's module must not be called as another module is.
taken = ["berths", "billing", "core", "exports", "gateway", "notices", "pilots"]
for region in values.regions:
    if region.flat in taken:
        refuse("%s is the name of a module; choose another for the region." % region.spaced)
