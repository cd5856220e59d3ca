# Completion of cursorum for bash: commands, options, names of controls, files.
_cursorum() {
    local current=${COMP_WORDS[COMP_CWORD]} previous=${COMP_WORDS[COMP_CWORD - 1]} command=${COMP_WORDS[1]}
    local options
    case $command in
        demo) options="--rate --help" ;;
        frames) options="--rate --repeat-delay --repeat-interval --repeat-cap --control --per-device --seats --offer --halves --profile --overlay --mode --action --show --from --to --every-repeat --shaping --strict --as --format --help" ;;
        draw) options="--output --rate --repeat-delay --repeat-interval --repeat-cap --from --to --control --pointer --profile --overlay --action --mode --sticks --size --strict --as --help" ;;
        watch) options="--source --profile --overlay --mode --rate --keep --for --output --help" ;;
        explain) options="--control --profile --overlay --action --mode --device --format --frame --at --rate --repeat-delay --repeat-interval --repeat-cap --strict --as --help" ;;
        record) options="--source --from --to --output --control --profile --overlay --pointer --every-key --for --help" ;;
        compare) options="--rate --repeat-delay --repeat-interval --repeat-cap --other-rate --profile --overlay --mode --help" ;;
        summary) options="--rate --lost --output --profile --overlay --mode --as --format --strict --help" ;;
        devices) options="--source --rest --device --as --format --strict --help" ;;
        keys) options="--help" ;;
        check) options="--help" ;;
        *) command= ;;
    esac
    COMPREPLY=()
    if [ "$COMP_CWORD" -eq 1 ]; then
        mapfile -t COMPREPLY < <(compgen -W "demo frames draw explain summary compare devices record watch keys check help --help --version" -- "$current")
        return
    fi
    case $previous in
        --control | --offer)
            local names
            names=$("${COMP_WORDS[0]}" keys 2>/dev/null | awk 'NR > 1 { print $1 }')
            mapfile -t COMPREPLY < <(compgen -W "$names" -- "$current")
            return ;;
        --format) mapfile -t COMPREPLY < <(compgen -W "table csv jsonl" -- "$current"); return ;;
        --show) mapfile -t COMPREPLY < <(compgen -W "all controls axes sticks pointer samples clicks drags contacts text locks devices seats edges actions events" -- "$current"); return ;;
        --source) mapfile -t COMPREPLY < <(compgen -W "x11 evdev evdev: replay:" -- "$current"); return ;;
        -o | --output | --profile | --overlay | --shaping) mapfile -t COMPREPLY < <(compgen -f -- "$current"); return ;;
        --as) mapfile -t COMPREPLY < <(compgen -W "keyboard mouse gamepad" -- "$current"); return ;;
        --rate | --other-rate | --device | --from | --to | --at | --for | --keep | --size | --frame | --seats | --mode | --action | --repeat-*) return ;;
    esac
    if [ -n "$command" ] && [ "${current:0:1}" = - ]; then
        mapfile -t COMPREPLY < <(compgen -W "$options" -- "$current")
    elif [[ " frames draw explain summary compare devices check " = *" $command "* ]]; then
        mapfile -t COMPREPLY < <(compgen -f -- "$current")
    fi
}
complete -o filenames -F _cursorum cursorum
