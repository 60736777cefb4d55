# What zsh's own parser makes of a file: the functions that it defines outside of other functions. zsh tells no lines.
#
#   zsh -f truth.zsh FILE      prints: NAME <tab> <tab>
zmodload zsh/parameter
setopt extended_glob
functions[truth]=$(<$1) 2>/dev/null || exit 0
hidden=
functions truth | tail -n +2 | while IFS= read -r line; do
    margin=${(M)line##$'\t'#}
    if [[ -n $hidden ]]; then
        [[ $line == $hidden'}' ]] && hidden=
    elif [[ $line == *' () {' ]]; then
        hidden=$margin
        line=${${line##$'\t'#}% \(\) \{}
        for name in ${=line##*(\|\||\&\&) }; do print -r -- "$name"$'\t\t'; done
    fi
done
