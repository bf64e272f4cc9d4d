"""A bed of mocked pads: plugs, moves and unplugs what a script says, while a program watches.

Run as: umockdev-wrapper python3 bed.py SCRIPT FOLDER PROGRAM [ARGUMENTS]

A line of the script is one of:
  plug KIND NODE           KIND is `layout` (the usual buttons and axes) or `bare` (a joystick's, in no layout)
  start                    starts the program
  wait MILLISECONDS
  mark                     the moment that the stamps below are counted from: now
  NODE +MICROS TYPE CODE VALUE [TYPE CODE VALUE ...]    one report of the kernel, stamped so long after the mark
  NODE lost                the kernel lost a report
  js NODE TYPE NUMBER VALUE    what the old joystick node of a pad says, which browsers read: 1 a button, 2 an axis, 8x at first
  unplug NODE
Types and codes are hexadecimal, as in linux/input-event-codes.h.
"""
import os, struct, subprocess, sys, time
import gi
gi.require_version("UMockdev", "1.0")
from gi.repository import UMockdev

STICK, TRIGGER, HAT, BYTE = (0, -32768, 32767, 16, 128, 0), (0, 0, 255, 0, 0, 0), (0, -1, 1, 0, 0, 0), (128, 0, 255, 0, 15, 0)
KINDS = {
    # Name, product, buttons, axes with value, least, most, fuzz, flat, resolution.
    "layout": ("Otter Post pad", 0x0A01, [0x130, 0x131, 0x133, 0x134, 0x136, 0x137, 0x13A, 0x13B, 0x13C, 0x13D, 0x13E],
               {0: STICK, 1: STICK, 2: TRIGGER, 3: STICK, 4: STICK, 5: TRIGGER, 0x10: HAT, 0x11: HAT}),
    "bare": ("Quay stick", 0x0B02, list(range(0x120, 0x12C)), {0: BYTE, 1: BYTE, 5: BYTE}),
}
BUS, VENDOR, VERSION = 3, 0x0123, 1


def mask(numbers, length):
    out = bytearray(length)
    for number in numbers:
        if number // 8 < length:
            out[number // 8] |= 1 << number % 8
    return out.hex().upper()


def words(numbers):
    big, out = sum(1 << number for number in numbers), []
    while big:
        out.append("%x" % (big & (1 << 64) - 1))
        big >>= 64
    return " ".join(reversed(out)) or "0"


def write(folder, kind, node):
    """The two files that the mock wants: what the node answers, and what /sys says of it."""
    name, product, keys, axes = KINDS[kind]
    answers = [f"@DEV /dev/input/event{node}"]
    say = lambda call, result, data: answers.append(f"{call} {result} {data}")
    say("EVIOCGVERSION", 0, struct.pack("<i", 0x010001).hex().upper())
    say("EVIOCGID", 0, struct.pack("<4H", BUS, VENDOR, product, VERSION).hex().upper())
    text = name.encode() + b"\0"
    # Data must have exactly the length that is asked for: 128 and 256 bytes are.
    for length in (128, 256):
        say("EVIOCGNAME", len(text), text.ljust(length, b"\0").hex().upper())
    for call in ("EVIOCGPHYS", "EVIOCGUNIQ"):
        say(call, 1, bytes(256).hex())
    say("EVIOCGPROP", 4, mask([], 4))
    for length in (4, 8, 32):
        say("EVIOCGBIT(0)", length, mask([0, 1, 3], length))
    say("EVIOCGBIT(1)", 96, mask(keys, 96))
    say("EVIOCGKEY", 96, mask([], 96))
    say("EVIOCGBIT(3)", 8, mask(axes, 8))
    for axis, info in axes.items():
        say("EVIOCGABS" if axis == 0 else f"EVIOCGABS({axis})", 0, struct.pack("<6i", *info).hex().upper())
    base = f"{folder}/{kind}-{node}"
    with open(f"{base}.ioctl", "w") as file:
        file.write("\n".join(answers) + "\n")
    parent = f"/devices/virtual/input/input{node}"
    child = lambda sort, minor: (
        f"P: {parent}/{sort}{node}\nN: input/{sort}{node}\nE: DEVNAME=/dev/input/{sort}{node}\nE: ID_INPUT=1\n"
        f"E: ID_INPUT_JOYSTICK=1\nE: MAJOR=13\nE: MINOR={minor}\nE: SUBSYSTEM=input\nA: dev=13:{minor}\\n\n"
        f"L: device=../../input{node}\n\n")
    with open(f"{base}.umockdev", "w") as file:
        file.write(child("js", node) + child("event", 64 + node))
        file.write(
            f"P: {parent}\nE: EV=b\nE: ID_INPUT=1\nE: ID_INPUT_JOYSTICK=1\nE: NAME=\"{name}\"\n"
            f"E: PRODUCT={BUS:x}/{VENDOR:x}/{product:x}/{VERSION:x}\nE: SUBSYSTEM=input\nA: name={name}\\n\n"
            f"A: capabilities/ev=b\\n\nA: capabilities/key={words(keys)}\\n\nA: capabilities/abs={words(axes)}\\n\n"
            f"A: id/bustype={BUS:04x}\\n\nA: id/vendor={VENDOR:04x}\\n\nA: id/product={product:04x}\\n\nA: id/version={VERSION:04x}\\n\n")
    return base


bed = UMockdev.Testbed.new()
# Asked before there is a bed, it says no for good.
assert UMockdev.in_mock_environment(), "run it under umockdev-wrapper"
script, folder, program = sys.argv[1], sys.argv[2], None
mark = time.time_ns() // 1000


def report(node, at, values):
    out = bed.get_dev_fd(f"/dev/input/event{node}")
    for kind, code, value in values + [(0, 0, 0)]:
        os.write(out, struct.pack("<qqHHi", at // 1_000_000, at % 1_000_000, kind, code, value))


for line in open(script):
    match line.split("#")[0].split():
        case []:
            pass
        case ["start"]:
            program = subprocess.Popen(sys.argv[3:])
        case ["wait", millis]:
            time.sleep(int(millis) / 1000)
        case ["mark"]:
            mark = time.time_ns() // 1000
        case ["plug", kind, node]:
            base = write(folder, kind, int(node))
            bed.load_ioctl(f"/dev/input/event{node}", f"{base}.ioctl")
            bed.add_from_file(f"{base}.umockdev")
        case ["unplug", node]:
            # The node goes first, as from the real /dev; who hears of it may still look into /sys; children before their parent.
            children = [f"{sort}{node}" for sort in ("js", "event")]
            for child in children:
                os.unlink(f"{bed.get_root_dir()}/dev/input/{child}")
            for child in children:
                bed.uevent(f"/sys/devices/virtual/input/input{node}/{child}", "remove")
            time.sleep(0.2)
            for child in children:
                bed.remove_device(f"/sys/devices/virtual/input/input{node}/{child}")
            bed.remove_device(f"/sys/devices/virtual/input/input{node}")
        case ["js", node, kind, number, value]:
            stamp = time.monotonic_ns() // 1_000_000 & 0xFFFFFFFF
            os.write(bed.get_dev_fd(f"/dev/input/js{node}"), struct.pack("<IhBB", stamp, int(value), int(kind, 16), int(number)))
        case [node, "lost"]:
            report(node, time.time_ns() // 1000, [(0, 3, 0)])
        case [node, stamp, *values]:
            numbers = iter(values)
            report(node, mark + int(stamp), [(int(k, 16), int(c, 16), int(v)) for k, c, v in zip(numbers, numbers, numbers)])
sys.exit(program.wait())
