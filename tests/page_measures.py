"""What a page is like for eyes, keys and screen readers, measured in a browser: contrast of text, borders of fields and buttons, what the keyboard
reaches, names in the browser's accessibility tree, width on a telephone. Contrast as WCAG 2.2 defines it (success criteria 1.4.3 and 1.4.11)."""

from typing import Any

LEAST_TEXT, LEAST_LARGE, LEAST_BORDER = 4.5, 3.0, 3.0
SIZES = {"screen": (1280, 800), "telephone": (390, 844)}
ROLES = (
    "button",
    "checkbox",
    "combobox",
    "link",
    "listbox",
    "option",
    "radio",
    "searchbox",
    "slider",
    "spinbutton",
    "switch",
    "textbox",
    "progressbar",
    "image",
)

_LOOK = """
const parse = c => { const m = c.match(/[\\d.]+/g)?.map(Number); return m ? [m[0], m[1], m[2], m.length > 3 ? m[3] : 1] : [0, 0, 0, 0]; };
const light = ([r, g, b]) => { const f = v => { v /= 255; return v <= .04045 ? v / 12.92 : ((v + .055) / 1.055) ** 2.4; }; return .2126 * f(r) + .7152 * f(g) + .0722 * f(b); };
const over = (top, below) => top.slice(0, 3).map((v, i) => v * top[3] + below[i] * (1 - top[3])).concat(1);
const ratio = (a, b) => { const [x, y] = [light(a), light(b)].sort((p, q) => q - p); return (x + .05) / (y + .05); };
const ground = e => { const layers = []; for (let n = e; n; n = n.parentElement) layers.push(parse(getComputedStyle(n).backgroundColor)); return layers.reverse().reduce((below, top) => over(top, below), matchMedia('(prefers-color-scheme: dark)').matches ? [18, 18, 18, 1] : [255, 255, 255, 1]); };
const seen = e => { const r = e.getBoundingClientRect(), s = getComputedStyle(e); return r.width > 1 && r.height > 1 && s.visibility !== 'hidden' && s.display !== 'none' && !e.closest('.seen'); };
const name = e => `${e.tagName.toLowerCase()}${e.id ? '#' + e.id : ''}${e.className && typeof e.className === 'string' ? '.' + e.className.trim().split(/\\s+/).join('.') : ''} “${(e.textContent || '').trim().slice(0, 30)}”`;
const faults = [];
const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
const texts = new Set(); while (walker.nextNode()) if (walker.currentNode.data.trim()) texts.add(walker.currentNode.parentElement);
for (const e of texts) {
  if (!seen(e) || ['SCRIPT', 'STYLE', 'TITLE', 'OPTION'].includes(e.tagName) || e.closest('svg') || e.closest(':disabled')) continue;
  const s = getComputedStyle(e), back = ground(e), found = ratio(over(parse(s.color), back), back), size = parseFloat(s.fontSize), large = size >= 24 || (size >= 18.66 && +s.fontWeight >= 700);
  if (found < (large ? arguments[1] : arguments[0])) faults.push(`text ${found.toFixed(2)}: ${name(e)}`);
}
for (const e of document.querySelectorAll('button, input, select, textarea')) {
  if (!seen(e) || e.type === 'hidden' || e.disabled || e.classList.contains('look')) continue;
  const s = getComputedStyle(e), outside = ground(e.parentElement), own = ground(e), edge = over(parse(s.borderTopColor), own);
  const found = parseFloat(s.borderTopWidth) ? Math.max(ratio(edge, outside), ratio(own, outside)) : ratio(own, outside);
  if (found < arguments[2]) faults.push(`border ${found.toFixed(2)}: ${name(e)}`);
}
if (document.documentElement.scrollWidth > arguments[3]) faults.push(`wider than the screen: ${document.documentElement.scrollWidth} of ${arguments[3]}`); // innerWidth grows with the page on a telephone
return [...new Set(faults)];
"""

_REACHED = """
const seen = e => { const r = e.getBoundingClientRect(), s = getComputedStyle(e); return r.width > 0 && r.height > 0 && s.visibility !== 'hidden'; };
const all = [...document.querySelectorAll('a[href], button, input, select, textarea, summary, [tabindex="0"]')].filter(e => seen(e) && !e.disabled && e.tabIndex >= 0 && !e.closest('dialog:not([open])'));
all.forEach((e, i) => { e.dataset.stop = i; });
return all.length;
"""


def look(browser: Any, dark: bool, size: str) -> list[str]:
    """Text and borders with too little contrast, and a page that is wider than its screen."""
    wide, high = SIZES[size]
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": wide, "height": high, "deviceScaleFactor": 1, "mobile": size == "telephone"},
    )
    browser.execute_cdp_cmd(
        "Emulation.setEmulatedMedia",
        {"features": [{"name": "prefers-color-scheme", "value": "dark" if dark else "light"}]},
    )
    return [
        f"{size}{', dark' if dark else ''}: {fault}"
        for fault in browser.execute_script(_LOOK, LEAST_TEXT, LEAST_LARGE, LEAST_BORDER, wide)
    ]


def unreached(browser: Any) -> list[str]:
    """Controls that the tab key does not come to, from the top of the page."""
    from selenium.webdriver.common.action_chains import ActionChains
    from selenium.webdriver.common.keys import Keys

    browser.execute_script(
        "document.activeElement?.blur(); scrollTo(0, 0); getSelection().removeAllRanges();"
    )
    count = browser.execute_script(_REACHED)
    come: set[str] = set()
    for _ in range(count + 3):
        ActionChains(browser).send_keys(Keys.TAB).perform()
        if stop := browser.execute_script("return document.activeElement?.dataset?.stop ?? ''"):
            come.add(stop)
    missed = [n for n in range(count) if str(n) not in come]
    shown = browser.execute_script(
        "return arguments[0].map(n => [...document.querySelectorAll('[data-stop]')].find(e => e.dataset.stop == n)?.outerHTML.slice(0, 90) ?? '')",
        missed,
    )
    return [f"not reached by the tab key: {one}" for one in shown]


def unnamed(browser: Any) -> list[str]:
    """Controls and pictures without a name in the accessibility tree."""
    browser.execute_cdp_cmd("Accessibility.enable", {})
    nodes = browser.execute_cdp_cmd("Accessibility.getFullAXTree", {})["nodes"]
    return [
        f"without a name: {node['role']['value']}"
        for node in nodes
        if not node.get("ignored")
        and node.get("role", {}).get("value", "").lower() in ROLES
        and not node.get("name", {}).get("value", "").strip()
    ]
