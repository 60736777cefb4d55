#!/bin/bash
unit="mm"
declare -A names=([a]="shutter" [b]="dome")
shopt -s extglob

# Writes text as it is.
# More of it.
plain() {
    cat <<EOF
}  $1 {
EOF
}
label() ( printf '%s' "$(plain "${names[$1]:-none} in $unit")" )
count() { local n=0; while ((n < $1)); do n=$((n + 1)); done; printf '%d' "$n"; } # }
function strip { local text=$1; [[ $text == +(x)* ]] && text=${text##+(x)}; printf '%s\n' "$text"; }
all()
{
    label a; label c; count 4; strip xxxy
}
