"""What the expansions are measured against: nested loops over the same values, one formatted string
each, the same bytes.

python benchmarks/bare.py OUT.txt|OUT.jsonl
"""

import sys

SUBJECTS = [f"subject choice {i:03d}" for i in range(50)]
LIGHTS = [f"light choice {i:03d}" for i in range(50)]
ACTIONS = [f"action choice {i:03d}" for i in range(40)]


def texts(file):
    for s in SUBJECTS:
        for m in LIGHTS:
            for a in ACTIONS:
                file.write(
                    f"A linocut of a {s} {a}, on a wet quay, lit by a {m}. In ink blue and lamp"
                    " orange, bold simple shapes, clear space at the top for lettering. /shape 2x3"
                    " /verbatim\n"
                )


def records(file):
    from hashlib import blake2b

    s0, l0, a0 = SUBJECTS[0], LIGHTS[0], ACTIONS[0]
    index = 0
    for s in SUBJECTS:
        for m in LIGHTS:
            for a in ACTIONS:
                text = (
                    f"A linocut of a {s} {a}, on a wet quay, lit by a {m}. In ink blue and lamp"
                    " orange, bold simple shapes, clear space at the top for lettering. /shape 2x3"
                    " /verbatim"
                )
                name = blake2b(
                    f"curlew-still\0{text}\0\0as-written=True\0pictures=1\0ratio=2:3".encode(),
                    digest_size=8,
                ).hexdigest()
                changes = []
                if s is not s0:
                    changes.append(f'"subject":["{s0}","{s}"]')
                if m is not l0:
                    changes.append(f'"light":["{l0}","{m}"]')
                if a is not a0:
                    changes.append(f'"action":["{a0}","{a}"]')
                changed = f',"changes":{{{",".join(changes)}}}' if changes else ""
                file.write(
                    f'{{"id":"{name}","formula":"poster","model":"curlew-still","text":"{text}","parameters":{{"ratio":"2:3","pictures":1,"as-written":true}},"request":{{"line":"{text}","reply":{{"to":"queue","kind":"png"}}}},"fills":{{"medium":"linocut","subject":"{s}","action":"{a}","setting":"wet'
                    f' quay","light":"{m}","palette":"ink blue and lamp'
                    f' orange"}},"size":{{"text":{{"used":{len(text) - 21},"limit":900,"unit":"characters"}}}},"cost":{{"amount":4.0,"currency":"credits"}},"findings":[{{"kind":"remark","code":"no-negative","at":"negative","message":"curlew-still'  # noqa: E501
                    " takes no negative prompt: the formula's negative text is left"
                    ' out","remedy":"describe what you want to see'
                    f' instead"}}],"design":{{"name":"full","index":{index}{changed}}}}}\n'
                )
                index += 1


with open(sys.argv[1], "w", encoding="utf-8", newline="") as out:
    (texts if sys.argv[1].endswith(".txt") else records)(out)
