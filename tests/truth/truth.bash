# What bash itself has after reading a file: the functions that the file defines, each with its line.
#
#   bash truth.bash FILE      prints: NAME <tab> LINE
shopt -s extdebug extglob
file=$1
set --
source /dev/stdin <<<"$(:)" # nothing: the options are in force from here on
declare -A before=()
while read -r _ _ name; do before[$name]=$(declare -F "$name"); done < <(declare -F)
source "$file" >/dev/null 2>&1 </dev/null
while read -r _ _ name; do
    read -r _ line from < <(declare -F "$name")
    [[ $from == "$file" ]] && printf '%s\t%s\n' "$name" "$line"
done < <(declare -F)
