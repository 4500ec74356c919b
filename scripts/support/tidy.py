"""Runs clang-tidy on the lines of src that have changed since a commit. Called by scripts/tidy.

Several changed files of a folder are read as one, for most of the time goes into what they include; where that cannot
be compiled, each is looked at by itself.
"""
import json
import os
import re
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor

TOGETHER = 8
BUILD = "build/tidy"


def changed_lines(since):
    """The lines of each changed file as clang-tidy's filter has them: {file: [[first, last], ...]}."""
    out, name = {}, None
    diff = subprocess.run(["git", "diff", "-U0", "--diff-filter=d", since, "--", "src/*.cpp", "src/*.h"],
                          capture_output=True, text=True, check=True).stdout
    for line in diff.splitlines():
        if line.startswith("+++ b/"):
            name = line[6:]
        elif found := re.match(r"@@ [^+]*\+(\d+)(?:,(\d+))? @@", line):
            first, many = int(found[1]), int(found[2] or 1)
            if many:
                out.setdefault(name, []).append([first, first + many - 1])
    return out


def parts_of(files):
    """Files of one folder of src, so many at a time."""
    folders = {}
    for f in files:
        folders.setdefault(f.split("/")[1], []).append(f)
    return [group[i:i + TOGETHER] for group in folders.values() for i in range(0, len(group), TOGETHER)]


def look(files, commands, number, lines):
    """What clang-tidy says of the files read as one, and whether it could read them."""
    folder = f"{BUILD}/together/{number}"
    os.makedirs(folder, exist_ok=True)
    source = os.path.abspath(f"{folder}/part.cpp")
    with open(source, "w") as out:
        out.writelines(f'#include "{os.path.abspath(f)}"\n' for f in files)
    like = commands[os.path.abspath(files[0])]
    command = {**like, "file": source, "command": like["command"].replace(like["file"], source)}
    with open(f"{folder}/compile_commands.json", "w") as out:
        json.dump([command], out)
    said = subprocess.run(["clang-tidy", "-p", folder, "--quiet", "--warnings-as-errors=*", f"--config-file={os.path.abspath('.clang-tidy')}",
                           "--line-filter=" + json.dumps(lines), source], capture_output=True, text=True)
    return said.returncode, said.stdout, "clang-diagnostic-error" in said.stdout or "error: " in said.stderr


def main():
    since, minutes = sys.argv[1], float(sys.argv[2])
    until = time.monotonic() + 60 * minutes
    with open(f"{BUILD}/compile_commands.json") as database:
        commands = {c["file"]: c for c in json.load(database)}
    changed = changed_lines(since)
    lines = [{"name": name, "lines": where} for name, where in changed.items()]
    # A header is looked at with whatever changed file includes it; demo and bench are not looked at.
    files = sorted(f for f in changed if os.path.abspath(f) in commands)
    left, bad = [], False

    def part(numbered):
        number, group = numbered
        if time.monotonic() > until:
            return group, []
        code, said, unread = look(group, commands, number, lines)
        if unread and len(group) > 1:
            missed, each = [], []
            for i, f in enumerate(group):
                if time.monotonic() > until:
                    missed.append(f)
                else:
                    each.append(look([f], commands, f"{number}-{i}", lines))
            return missed, [one for one in each if one[0]]
        return [], [(code, said, unread)] if code else []

    with ThreadPoolExecutor(os.cpu_count()) as pool:
        for missed, found in pool.map(part, enumerate(parts_of(files))):
            left += missed
            for _, said, _ in found:
                bad = True
                print(said, end="", flush=True)
    print(f"tidy: looked at {len(files) - len(left)} of {len(files)} files that have changed since {since[:10]}")
    if left:
        print("tidy: not looked at, for want of time:", *left)
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
