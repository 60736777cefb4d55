# What the compiler itself sees in a C header: each function, and each macro that stands for something, with its line.
# It tells parameters without their names, so none are told here. What macros make is not told.
#
#   sh truth_header.sh FILE      prints: NAME <tab> LINE <tab>
set -u
header=$1
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
gcc -x c -w -fsyntax-only -aux-info "$work/functions" -include "$header" /dev/null 2>/dev/null || exit 0
awk -v header="$header" '
    BEGIN { while ((getline text < header) > 0) lines[++count] = text }
    $1 == "/*" && index($2, header ":") == 1 {
        split(substr($2, length(header) + 2), at, ":")
        sub(/^[^*]*\*\/ /, "")
        if (substr($0, index($0, " (") + 2, 1) == "*") next  # it gives a function: another form
        head = substr($0, 1, index($0, " (") - 1)
        sub(/.*[ *]/, "", head)
        if (lines[at[1]] ~ ("(^|[^A-Za-z0-9_])" head "[ \t]*\\(")) printf "%s\t%s\t\n", head, at[1]
    }' "$work/functions"
gcc -x c -w -E -dD -include "$header" /dev/null 2>/dev/null | awk -v header="\"$header\"" '
    /^# [0-9]+ "/ { line = $2; inside = $3 == header; next }
    inside && /^#define [A-Za-z_0-9]+(\(| +[^ \/])/ {
        name = $2
        sub(/\(.*/, "", name)
        printf "%s\t%s\t\n", name, line
    }
    { ++line }'
