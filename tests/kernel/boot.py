#!/usr/bin/env python3
"""Boots Debian's kernel in QEMU and runs a test program in it as root; exits with the program's exit code.

    boot.py CACHE [--with PATH]... PROGRAM [ARGUMENT...]

PATH is a program or folder that it needs: both have their own paths in the machine, and programs their libraries.
CACHE is a folder for the unpacked kernel (fetched once, 75 MB; nothing is installed). The program may ask for what only
the machine's owner can do by printing a line "@qmp COMMAND" with a command of QEMU's monitor as JSON: it presses keys of
an emulated USB keyboard, and unplugs it. Exit code 77: QEMU or the kernel cannot be had here.
"""

import glob
import json
import os
import re
import select
import shutil
import socket
import subprocess
import sys
import tempfile
import time

MODULES = ["evdev", "uinput", "xhci_pci", "usbhid", "hid_generic"]
LIMIT = int(os.environ.get("KERNEL_TEST_SECONDS", 300))  # for the whole machine
INIT = """#!/bin/busybox sh
/bin/busybox mkdir -p /proc /sys /dev /tmp
/bin/busybox mount -t proc none /proc
/bin/busybox mount -t sysfs none /sys
/bin/busybox mount -t devtmpfs none /dev
/bin/busybox mount -t tmpfs none /tmp
/bin/busybox mkdir -p /dev/shm /var/tmp
for module in $(/bin/busybox cat /modules.list); do /bin/busybox insmod $module; done
%s
echo "@exit $?"
/bin/busybox poweroff -f
"""


def skip(why):
    print(f"kernel tests are skipped: {why}", file=sys.stderr)
    sys.exit(77)


def fetch_kernel(cache):
    """The newest kernel of the package archive, unpacked."""
    root = os.path.join(cache, "kernel")
    if glob.glob(f"{root}/boot/vmlinuz-*"):
        return root
    os.makedirs(cache, exist_ok=True)
    depends = subprocess.run(["apt-cache", "depends", "--important", "linux-image-amd64"], capture_output=True, text=True)
    found = re.search(r"Depends: (linux-image-\d\S+)", depends.stdout)
    if not found:
        skip("the package archive has no linux-image-amd64")
    print(f"Fetching {found[1]} ...", file=sys.stderr)
    got = subprocess.run(["apt-get", "download", "-o", "APT::Sandbox::User=root", found[1]], cwd=cache)
    packages = glob.glob(f"{cache}/{found[1]}_*.deb")
    if got.returncode != 0 or not packages:
        skip(f"{found[1]} cannot be fetched")
    part = root + ".part"
    shutil.rmtree(part, ignore_errors=True)
    subprocess.run(["dpkg-deb", "-x", packages[0], part], check=True)
    os.remove(packages[0])
    version = os.listdir(f"{part}/lib/modules")[0]
    subprocess.run(["depmod", "-b", part, version], check=True)
    os.rename(part, root)
    return root


def modules(root):
    """Files to load, in order."""
    version = os.listdir(f"{root}/lib/modules")[0]
    files = []
    for module in MODULES:
        shown = subprocess.run(["modprobe", "-d", root, "-S", version, "--show-depends", module],
                               capture_output=True, text=True, check=True)
        for line in shown.stdout.splitlines():
            if line.startswith("insmod ") and line.split()[1] not in files:
                files.append(line.split()[1])
    return files


def take_along(tree, path):
    """A file, with the libraries that it needs if it is a program; or a folder."""
    os.makedirs(tree + os.path.dirname(path), exist_ok=True)
    if os.path.isdir(path):
        shutil.copytree(path, tree + path, symlinks=True, ignore_dangling_symlinks=True, dirs_exist_ok=True)
        return
    shutil.copy(path, tree + path)
    for library in re.findall(r"(/\S+) \(0x", subprocess.run(["ldd", path], capture_output=True, text=True).stdout):
        os.makedirs(tree + os.path.dirname(library), exist_ok=True)
        shutil.copy(library, tree + library)


def make_initrd(folder, root, paths, command):
    tree = os.path.join(folder, "tree")
    os.makedirs(f"{tree}/bin")
    shutil.copy("/bin/busybox", f"{tree}/bin/busybox")
    os.symlink("busybox", f"{tree}/bin/sh")
    for path in paths:
        take_along(tree, path)
    with open(f"{tree}/modules.list", "w") as names:
        for file in modules(root):
            shutil.copy(file, f"{tree}/{os.path.basename(file)}")
            names.write(f"/{os.path.basename(file)}\n")
    with open(f"{tree}/init", "w") as init:
        init.write(INIT % " ".join(command))
    os.chmod(f"{tree}/init", 0o755)
    files = subprocess.run(["find", "."], cwd=tree, capture_output=True, text=True, check=True).stdout
    with open(f"{folder}/initrd", "wb") as image:
        subprocess.run(["cpio", "-o", "-H", "newc", "--quiet"], cwd=tree, input=files.encode(), stdout=image, check=True)


class Monitor:
    """QEMU's own monitor."""

    def __init__(self, path):
        self.socket = socket.socket(socket.AF_UNIX)
        self.socket.connect(path)
        self.lines = self.socket.makefile("r")
        self.lines.readline()
        self.run('{"execute": "qmp_capabilities"}')

    def run(self, command):
        self.socket.sendall(command.encode() + b"\n")
        while True:
            answer = json.loads(self.lines.readline())
            if "error" in answer:
                print(f"kernel tests: the monitor refused {command}: {answer['error']}", file=sys.stderr)
            if "error" in answer or "return" in answer:
                return


def main():
    cache, command, paths = sys.argv[1], sys.argv[2:], []
    while command[0] == "--with":
        paths.append(os.path.abspath(command[1]))
        command = command[2:]
    command[0] = os.path.abspath(command[0])
    for tool in ("qemu-system-x86_64", "cpio", "modprobe", "busybox"):
        if not shutil.which(tool):
            skip(f"{tool} is not installed")
    root = fetch_kernel(cache)
    with tempfile.TemporaryDirectory() as folder:
        make_initrd(folder, root, paths + command[:1], command)
        monitor_path = f"{folder}/monitor"
        machine = subprocess.Popen(
            ["qemu-system-x86_64", "-nodefaults", "-no-user-config", "-display", "none", "-no-reboot", "-m", "512",
             "-kernel", glob.glob(f"{root}/boot/vmlinuz-*")[0], "-initrd", f"{folder}/initrd",
             "-append", "console=ttyS0 quiet loglevel=1 panic=-1 mitigations=off random.trust_cpu=on tsc=reliable",
             "-serial", "stdio", "-qmp", f"unix:{monitor_path},server=on,wait=off",
             "-device", "qemu-xhci,id=usb", "-device", "usb-kbd,id=kbd"],
            stdin=subprocess.DEVNULL, stdout=subprocess.PIPE)
        result, end, monitor, rest = None, time.monotonic() + LIMIT, None, b""
        try:
            while result is None and time.monotonic() < end:
                if not select.select([machine.stdout], [], [], 1)[0]:
                    continue
                data = os.read(machine.stdout.fileno(), 65536)
                if not data:
                    break
                *lines, rest = (rest + data).split(b"\n")
                for line in lines:
                    text = line.decode(errors="replace").rstrip("\r")
                    if text.startswith("@exit "):
                        result = int(text[6:])
                    elif text.startswith("@qmp "):
                        monitor = monitor or Monitor(monitor_path)
                        monitor.run(text[5:])
                    else:
                        print(text, flush=True)
        finally:
            machine.kill()
            machine.wait()
    if result is None:
        print("kernel tests: the machine ended, or took too long, without a result", file=sys.stderr)
        return 1
    return result


sys.exit(main())
