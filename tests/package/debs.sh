#!/usr/bin/env bash
# debs.sh FOLDER LIBDIR COMPILER VERSION ROOT: makes Debian packages of a build of shared libraries, installs them in a
# clean root, runs the tool, builds against them by pkg-config and by CMake, and removes them. Prints nothing if all is
# well. As root, since packages have root's files.
set -euo pipefail
folder=$1 libdir=$2 compiler=$3 version=$4 root=$5
log=$folder/debs.log
prints() { cat "$log"; echo "$1"; exit 1; }
cd "$folder"
rm -f ./*.deb
cpack >"$log" 2>&1 || prints "no packages"
target=$(mktemp -d)
trap 'rm -rf "$target"' EXIT
mkdir -p "$target"/var/lib/dpkg/{info,updates,triggers}
touch "$target/var/lib/dpkg/status"
# Its own packages are the only ones there: what they depend on is this machine's, whose cache of libraries is not for them.
mkdir "$target/programs"
ln -s /bin/true "$target/programs/ldconfig"
in_target() {
    PATH=$target/programs:$PATH dpkg --root="$target" --force-depends --force-script-chrootless --log=/dev/null "$@" \
        >>"$log" 2>&1
}
in_target -i ./libcursorum"${version%.*}"_*.deb ./libcursorum-dev_*.deb ./cursorum_*.deb || prints "they do not install"
for package in "libcursorum${version%.*}" libcursorum-dev cursorum; do
    dpkg-query --admindir="$target/var/lib/dpkg" -W -f '${db:Status-Status} ${Version}\n' "$package" |
        grep -q "^installed $version" || prints "$package is not installed"
    # What it depends on is known to Debian, or one of ours.
    dpkg-query --admindir="$target/var/lib/dpkg" -W -f '${Depends}\n' "$package" | tr ',' '\n' |
        sed 's/^ *//; s/ .*//' | while read -r needed; do
        [[ $needed == libcursorum* ]] || dpkg-query -W "$needed" >/dev/null 2>&1 || prints "$package needs $needed"
    done
done
for file in bin/cursorum share/man/man1/cursorum.1 share/bash-completion/completions/cursorum \
    share/cursorum/demo/quay-shift.jsonl include/cursorum/cursorum.hpp; do
    [ -f "$target/usr/$file" ] || prints "$file is not installed"
done
"$root/tests/package/moved.sh" "$target/usr" "$libdir" "$compiler" "$version" "$root" ""
"$target/usr/bin/cursorum" frames "$target/usr/share/cursorum/demo/quay-shift.jsonl" --control Space >>"$log" ||
    prints "the tool does not run"
"$target/usr/bin/cursorum" draw "$target/usr/share/cursorum/demo/quay-shift.jsonl" -o "$target/shift.svg" >>"$log" ||
    prints "the tool does not draw"
grep -q "<svg" "$target/shift.svg" || prints "no picture"
rm "$target/shift.svg"
in_target -r cursorum libcursorum-dev "libcursorum${version%.*}" || prints "they cannot be removed"
left=$(find "$target" -path "$target/var" -prune -o -type f -print)
[ -z "$left" ] || prints "files are left: $left"
