"""A whole engine in a few lines of standard Python; little.toml says how it is run."""

import array
import math
import sys
import wave

role, first = sys.argv[1:3]
if role == "speak":
    count = max(1, round(sum(c in "aeiouyäöü" for c in sys.stdin.read().lower()) / float(sys.argv[3])))
    tone = array.array("h", (int(9000 * math.sin(k * 0.059) * math.sin(math.pi * k / 2600) ** 2) for k in range(2600)))
    with wave.open(sys.stdout.buffer, "wb") as out:
        out.setparams((1, 2, 16000, 0, "NONE", ""))
        out.writeframes((tone * count).tobytes())
elif role == "translate":
    for line in sys.stdin:
        print(f"{line.strip().upper()} ({first})\t{line.strip().split()[0].upper()}!")
else:
    print("sound 1 0.50 0.40 Hello 0.90\nsound 1 1.00 0.50 harbour 0.80\nsound 1 4.00 0.50 again 0.70")
