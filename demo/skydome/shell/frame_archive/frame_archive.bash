# shellcheck shell=bash
# Puts the night's frames away by date, below the folder in FRAME_ARCHIVE.

# Moves frames into a folder named after a night.
# $1: the night, as 2026-11-23
# further: files to move
frame_archive_store() {
    local folder=${FRAME_ARCHIVE:-frames}/$1
    shift
    mkdir -p "$folder" && mv -- "$@" "$folder" && night_log_write "$# frames put away in $folder"
}
