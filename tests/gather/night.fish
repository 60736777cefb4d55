#!/usr/bin/fish
set unit mm
set -g sizes 1 2 3
# Says it.
function label -d "Says it" -a what
    echo "$what in $unit" (count $sizes)
end
function all
    for what in shutter dome
        label $what
    end
    if test $unit = mm; echo yes; end
end
