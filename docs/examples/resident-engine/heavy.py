"""An engine that takes long to load and then stays: a line of JSON in, a line of JSON out. heavy.toml describes it."""

import base64
import io
import json
import math
import os
import sys
import time
import wave

time.sleep(float(os.environ.get("HEAVY_LOADS_S", "0.2")))  # as a model does
print(json.dumps({"ready": True}), flush=True)


def hum(text, rate):
    count = max(1, round(sum(sign in "aeiouyäöü" for sign in text.lower()) / rate))
    beat = [int(9000 * math.sin(k * 0.059) * math.sin(math.pi * k / 2600) ** 2) for k in range(2600)]
    file = io.BytesIO()
    with wave.open(file, "wb") as out:
        out.setparams((1, 2, 16000, 0, "NONE", ""))
        out.writeframes(b"".join(value.to_bytes(2, "little", signed=True) for value in beat) * count)
    return base64.b64encode(file.getvalue()).decode()


for line in sys.stdin:
    asked = json.loads(line)
    if "stop" in asked:  # nobody waits for this one any more
        continue
    if asked["role"] == "speak":
        answer = {"sound": hum(asked["request"]["ssml"], asked["request"]["rate"])}
    else:
        items = asked["request"]["items"]
        answer = {"items": [{"id": i["id"], "wordings": [{"text": i["text"].upper()}]} for i in items]}
    print(json.dumps({"id": asked["id"], "answer": answer}), flush=True)
