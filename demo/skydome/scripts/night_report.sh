#!/bin/bash
# What the night brought, for the morning meeting.

as_hours() { # minutes
    printf '%d:%02d\n' $(($1 / 60)) $(($1 % 60))
}

# Prints how long the dome was open, from minutes.
open_time() {
    printf 'open for %s\n' "$(as_hours "$1")"
}

open_time "${1:-431}"
