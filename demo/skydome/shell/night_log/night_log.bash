# shellcheck shell=bash
# Writes the night's log, a line an event, to the file in NIGHT_LOG_FILE.

# Where the log lies.
_night_log_file() {
    printf '%s' "${NIGHT_LOG_FILE:-${TMPDIR:-/tmp}/night.log}"
}

# Writes one line with the time in front.
# $1: what happened
night_log_write() {
    local stamp
    printf -v stamp '%(%H:%M:%S)T' -1
    printf '%s  %s\n' "${NIGHT_LOG_TIME-$stamp}" "$1" >>"$(_night_log_file)"
}

# Prints the last lines of the log.
# $1: how many; left out: 10
night_log_show() {
    tail -n "${1-10}" "$(_night_log_file)"
}
