# shellcheck shell=bash
# Opens and closes the dome's shutter, and says so in the log.

# Opens the shutter unless it rains.
# $1: `rain` keeps it closed
shutter_ops_open() {
    if [[ ${1-} == rain ]]; then
        night_log_write 'shutter stays closed: rain'
        return 1
    fi
    night_log_write 'shutter open'
}

# Closes the shutter.
shutter_ops_close() {
    night_log_write 'shutter closed'
}
