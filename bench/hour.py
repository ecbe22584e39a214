"""An hour's editing in three minutes: what a photographer asks of the studio, one request after the other, and the memory it
then holds. Run by `python -m bench.screen`."""

from typing import Final

from playwright.sync_api import Page

BAR_GB: Final = 1.6

EDIT = """async ([scene, seconds]) => {
  const token = window.document.cookie.match(/csrftoken=([^;]+)/)[1];
  const headers = { "Content-Type": "application/json", "X-CSRFToken": token };
  const opened = await (await fetch(`/api/scenes/${scene}`)).json();
  const document = opened.revision.document;
  const latches = document.latches.map((l) => l.id);
  const moves = document.moves.filter((m) => m.kind === "exposure");
  const until = performance.now() + seconds * 1000;
  let number = 10_000, asked = 0, seed = 1;
  const chance = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
  const ask = async (what, body) => {
    const said = { document, view: "hour", number: ++number, ...body };
    const answer = await fetch(`/api/scenes/${scene}/${what}`, { method: "POST", headers, body: JSON.stringify(said) });
    if (!answer.ok) throw new Error(`${what}: ${answer.status} ${await answer.text()}`);
    await answer.arrayBuffer();
    asked++;
  };
  const fitted = { region: [0, 0, 1, 1], width: 774, height: 516 };
  while (performance.now() < until) {
    // a move is dragged and let go, the picture gone over at 100 %, a latch looked at and shifted, the level turned
    const move = moves[Math.floor(chance() * moves.length)];
    for (let n = 0; n < 12; n++) {
      move.params.ev = Math.round((chance() * 2 - 1) * 100) / 100;
      await ask("picture", { ...fitted, full: false });
    }
    await ask("meters", { wings: latches.slice(0, 2) });
    await ask("picture", { ...fitted, full: true });
    for (let n = 0; n < 3; n++) {
      const [x, y] = [chance() * 0.85, chance() * 0.85];
      const part = { region: [x, y, x + 0.129, y + 0.129], width: 774, height: 516 };
      await ask("picture", { ...part, full: true });
      await ask("mask", { ...part, full: true, latch: latches[Math.floor(chance() * latches.length)] });
    }
    const latch = document.latches[Math.floor(chance() * latches.length)];
    latch.feather = Math.round(chance() * 40) / 10000;
    await ask("mask", { ...fitted, full: true, latch: latch.id });
    if (chance() < 0.2) document.ground.trim.params.level = Math.round((chance() * 2 - 1) * 100) / 100;
    if (chance() < 0.2) document.ground.noise.params.light = Math.round(chance() * 10) / 10;
  }
  return asked;
}"""


def private_gb(pid: int) -> float:
    """What a process holds for itself, GB."""
    with open(f"/proc/{pid}/smaps_rollup") as file:
        return sum(int(line.split()[1]) for line in file if line.startswith("Anonymous:")) / 1e6


def an_hour(page: Page, scene: str, pid: int, seconds: float = 180.0) -> None:
    """Edit, and print what the studio's process holds before and after."""
    before = private_gb(pid)
    asked = page.evaluate(EDIT, [scene, seconds])
    after = private_gb(pid)
    verdict = "holds" if after <= BAR_GB else "does not hold"
    what = f"memory of the studio after {asked} pictures and masks"
    print(f"  {what:<58} {after:8.2f} GB  (before: {before:.2f})   bar ≤ {BAR_GB} GB  {verdict}", flush=True)
