# What fish itself has after reading a file: the functions that the file defines, each with its line and its arguments.
#
#   fish truth.fish FILE      prints: NAME <tab> LINE <tab> ARGUMENTS
set file $argv[1]
set argv
source $file </dev/null >/dev/null 2>&1
for name in (functions --all --names)
    set details (functions --details --verbose -- $name)
    test "$details[1]" = "$file"; or continue
    set head (functions --no-details -- $name | string match --regex '^function .*')[1]
    set arguments (string match --regex --groups-only -- '--argument(?:-names)? ((?:[\w]+ ?)*)' "$head" | string trim)
    printf '%s\t%s\t%s\n' $name $details[3] "$arguments"
end
