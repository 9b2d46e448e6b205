"""Completion scripts for shells: commands, options, values, files, and the columns of tables that are typed."""

from collections.abc import Callable, Mapping, Sequence

from millstone.cli.manual.commands import CommandPage, Option

ASKS = "--columns-of"
"""What a script types to be told the columns of the tables among the words of a command."""
_OF_PROGRAM = {
    "--help": "how to use millstone",
    "--version": "the version",
    "--cite": "how to cite millstone",
    "--completion": "a completion script",
}


def _bash(pages: Sequence[CommandPage]) -> str:
    cases, options = [], []
    for page in pages:
        options.append(
            f'    {page.name}) options="{" ".join(form for one in page.options for form in one.forms)}" ;;'
        )
        for one in page.options:
            forms = "|".join(f'"{page.name} {form}"' for form in one.forms)
            if one.forms and one.metavar:
                cases.append(f"    {forms}) {_bash_action(one)}; return ;;")
    names = " ".join(page.name for page in pages)
    return f"""# completion of millstone in bash: eval "$(millstone --completion bash)"
_millstone_words() {{
  local IFS=$'\\n'
  COMPREPLY=($(compgen -W "$1" -- "$current"))
}}

_millstone_columns() {{
  local IFS=$'\\n'
  COMPREPLY=($(compgen -W "$(millstone {ASKS} "${{COMP_WORDS[@]:1}}" 2>/dev/null)" -- "$current"))
  compopt -o filenames 2>/dev/null
}}

_millstone() {{
  local current="${{COMP_WORDS[COMP_CWORD]}}" before="${{COMP_WORDS[COMP_CWORD-1]}}"
  local command="${{COMP_WORDS[1]}}" options=""
  COMPREPLY=()
  if [ "$COMP_CWORD" -eq 1 ]; then
    COMPREPLY=($(compgen -W "{names} {" ".join(_OF_PROGRAM)}" -- "$current"))
    return
  fi
  if [ "$command" = --completion ]; then
    COMPREPLY=($(compgen -W "bash zsh fish" -- "$current"))
    return
  fi
  # the shell parts --option=value at the sign
  [ "$current" = "=" ] && current=""
  [ "$before" = "=" ] && before="${{COMP_WORDS[COMP_CWORD-2]}}"
  case "$command $before" in
{chr(10).join(cases)}
  esac
  case "$command" in
{chr(10).join(options)}
  esac
  case "$current" in
    -*) COMPREPLY=($(compgen -W "$options" -- "$current")) ;;
    *) compopt -o default 2>/dev/null ;;
  esac
}}
complete -F _millstone millstone
"""


def _bash_action(option: Option) -> str:
    if option.takes_column:
        return "_millstone_columns"
    if option.values:
        return f"_millstone_words $'{chr(92) + 'n'}{(chr(92) + 'n').join(option.values)}'"
    return "compopt -o default 2>/dev/null" if option.takes_file else ":"


def _zsh(pages: Sequence[CommandPage]) -> str:
    cases, options = [], []
    for page in pages:
        described = " ".join(_zsh_described(form, one.meaning) for one in page.options for form in one.forms)
        options.append(f"    {page.name}) options=({described}) ;;")
        for one in page.options:
            if one.forms and one.metavar:
                forms = "|".join(f'"{page.name} {form}"' for form in one.forms)
                cases.append(f"    {forms}) {_zsh_action(one)}; return ;;")
    names = " ".join(_zsh_described(page.name, page.question) for page in pages)
    program = " ".join(_zsh_described(name, said) for name, said in _OF_PROGRAM.items())
    return f"""#compdef millstone
# completion of millstone in zsh: eval "$(millstone --completion zsh)"
_millstone_columns() {{
  local -a found
  found=("${{(@f)$(millstone {ASKS} "${{(@Q)words[2,-1]}}" 2>/dev/null)}}")
  compadd -- $found
}}

_millstone() {{
  local -a commands options
  local command="${{words[2]}}" before="${{words[CURRENT-1]}}"
  if (( CURRENT == 2 )); then
    commands=({names} {program})
    _describe command commands
    return
  fi
  if [[ "$command" == --completion ]]; then
    compadd bash zsh fish
    return
  fi
  case "$PREFIX" in
    --*=*) before="${{PREFIX%%=*}}"; compset -P '*=' ;;
  esac
  case "$command $before" in
{chr(10).join(cases)}
  esac
  case "$command" in
{chr(10).join(options)}
  esac
  if [[ "$PREFIX" == -* ]]; then
    _describe -o option options
  else
    _files
  fi
}}
compdef _millstone millstone
"""


def _zsh_described(name: str, said: str) -> str:
    return "'" + f"{name}:{said}".replace("'", "'\\''") + "'"


def _zsh_action(option: Option) -> str:
    if option.takes_column:
        return "_millstone_columns"
    if option.values:
        return f"compadd {' '.join(option.values)}"
    return "_files" if option.takes_file else "_message value"


def _fish(pages: Sequence[CommandPage]) -> str:
    lines = ["# completion of millstone in fish: millstone --completion fish | source", "complete -c millstone -f"]
    lines.append(
        "function __millstone_columns\n  set -l words (commandline -opc)\n"
        f"  millstone {ASKS} $words[2..-1] 2>/dev/null\nend"
    )
    lines += [
        f"complete -c millstone -n __fish_use_subcommand -a {page.name} -d {_fish_quoted(page.question)}"
        for page in pages
    ]
    lines += [
        f"complete -c millstone -n __fish_use_subcommand -l {name[2:]} -d {_fish_quoted(said)}"
        for name, said in _OF_PROGRAM.items()
    ]
    lines.append("complete -c millstone -n '__fish_seen_argument -l completion' -a 'bash zsh fish'")
    for page in pages:
        here = f"complete -c millstone -n '__fish_seen_subcommand_from {page.name}'"
        lines.append(f"{here} -F")
        lines += [f"{here} {_fish_option(one)} -d {_fish_quoted(one.meaning)}" for one in page.options if one.forms]
    return "\n".join(lines) + "\n"


def _fish_option(option: Option) -> str:
    names = " ".join(f"-l {form[2:]}" if form.startswith("--") else f"-s {form[1:]}" for form in option.forms)
    if not option.metavar:
        return names
    if option.takes_column:
        return f"{names} -x -a '(__millstone_columns)'"
    if option.values:
        return f"{names} -x -a '{' '.join(option.values)}'"
    return f"{names} -r -F" if option.takes_file else f"{names} -x"


def _fish_quoted(text: str) -> str:
    return "'" + text.replace("\\", "\\\\").replace("'", "\\'") + "'"


SHELLS: Mapping[str, Callable[[Sequence[CommandPage]], str]] = {"bash": _bash, "zsh": _zsh, "fish": _fish}
"""Shell -> what makes its script."""
