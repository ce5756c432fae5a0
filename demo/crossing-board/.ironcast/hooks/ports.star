# The ticket offices have used these ports since long before the catalogue.
if 8080 <= values.port and values.port <= 8086:
    refuse("Ports 8080 to 8086 belong to the ticket offices; choose another for %s." % values.service.spaced)
