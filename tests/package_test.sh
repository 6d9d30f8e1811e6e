#!/usr/bin/env bash
# Makes the Debian package, unpacks it into an empty folder and uses what is in it: tests/package_test.sh SOURCE
set -euo pipefail
source=$1
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
fail() { echo "package: $*" >&2; exit 1; }
deb=$("$source/packaging/build-deb" "$work/out")
[ -s "$deb" ] || fail "no package was made"
dpkg-deb --extract "$deb" "$work/root"
share=$work/root/usr/share

# What it says of itself.
depends=$(dpkg-deb --field "$deb" Depends)
for wanted in libqt6widgets6 libocct-modeling-algorithms libgl1 libxkbcommon-x11-0; do
  [[ $depends == *"$wanted"* ]] || fail "it does not depend on $wanted: $depends"
done
for each in ${depends//,/ }; do # every name among them is one that this Debian knows
  [[ $each == *[a-z]* && $each != *"("* && $each != *")"* && $each != "|" ]] || continue
  dpkg-query -W "$each" >/dev/null 2>&1 || fail "there is no package $each"
done
desktop-file-validate "$share/applications/loose-peg.desktop"
appstreamcli validate --no-net "$share/metainfo/org.loosepeg.LoosePeg.metainfo.xml" || fail "AppStream data"
update-mime-database "$share/mime" 2>/dev/null
grep -q "application/x-loose-peg:\*.loosepeg" "$share/mime/globs" || fail "no type for .loosepeg"
for page in "$share"/man/man1/*.gz; do
  gzip -dc "$page" | grep -q '^\.SH NAME' || fail "$page is no manual page"
done
# Every subcommand the program knows is in its manual page.
for word in $("$work/root/usr/bin/loose-peg-cli" --help | sed -n '/^Subcommands/,$s/^  \([a-z]*\) .*/\1/p'); do
  gzip -dc "$share/man/man1/loose-peg-cli.1.gz" | grep -qw "$word" || fail "the manual page lacks $word"
done

# What it does from there: a project is made by the kernel helper of the package, and the window is drawn.
cd "$work"
"$work/root/usr/bin/loose-peg-cli" make "$share/loose-peg/examples/seed-box/project.json" --to made --format 3mf >/dev/null
[ -n "$(ls made/*.3mf)" ] || fail "nothing was made"
helper=$work/root/usr/libexec/loose-peg/loose-peg-kernel
mv "$helper" "$helper-itself"
printf '#!/bin/sh\ntouch "%s/asked"\nexec "%s-itself" "$@"\n' "$work" "$helper" > "$helper"
chmod 755 "$helper"
"$work/root/usr/bin/loose-peg-cli" make "$share/loose-peg/examples/seed-box/project.json" --to again --format stl >/dev/null
[ -e "$work/asked" ] || fail "the kernel helper of the package was not asked"
XDG_CONFIG_HOME=$work/config XDG_STATE_HOME=$work/state "$work/root/usr/bin/loose-peg" \
  "$share/loose-peg/demo/rain-gauge/project.json" --size 1280x800 --shot shot.png
[ "$(head -c 8 shot.png | od -An -tx1 | tr -d ' \n')" = 89504e470d0a1a0a ] || fail "no picture"
[ "$(stat -c %s shot.png)" -gt 40000 ] || fail "the picture is empty"
echo "package: $(basename "$deb"), $(($(stat -c %s "$deb") / 1024 / 1024)) MB, works from an empty folder"
