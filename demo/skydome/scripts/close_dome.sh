#!/bin/bash
# Closes the dome in the morning.

stamp() {
    date -u +%H:%M:%S
}

announce() {
    printf '%s %s\n' "$(stamp)" "$1"
}

# Turns minutes into hours and minutes.
as_hours() {
    printf '%d:%02d\n' $(($1 / 60)) $(($1 % 60))
}

announce "dome closes"
