#!/bin/bash
# Opens the dome for the night: typed by whoever is first.
set -u
DOME_LIMIT=40

# Says the time as the log wants it.
stamp() {
    date -u +%H:%M
}

# Tells whether the wind lets the dome be opened.
wind_allows() {
    local wind=$1
    ((wind < DOME_LIMIT))
}

# Writes a line to the screen, with the time.
say() {
    printf '%s %s\n' "$(stamp)" "$1"
}

open_dome() {
    clear
    read -r -p "wind? " wind
    wind_allows "$wind" || exit 1
    say "dome opens"
    ssh operator@dome.varnhill.example open
}

open_dome
