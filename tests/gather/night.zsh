#!/usr/bin/env zsh
typeset -A names=(a shutter b dome)
unit=mm
# Says it.
label() { print -r -- "${names[$1]:-none} in $unit" }
function count { local n=0; while (( n < $1 )); do (( n++ )); done; print -r -- $n }
all() {
    label a; label c
    () { print -r -- "inner $1" } x
    count 4
}
