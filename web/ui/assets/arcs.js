// Arcs run from a question's right edge to the margin lines that name it. They are drawn
// once, for the whole manuscript, and stay as it is scrolled. What runs from one question
// to many places runs as one, in a lane of its own; of what is far away only the ends are
// drawn, until one points at it.
(() => {
  const FEW = 3; // arcs of a question up to which each is drawn by itself
  const FAR = 720; // pixels from end to end beyond which only the ends are drawn
  const STUB = 34; // pixels of such an end
  const lane = { first: 12, wide: 7, last: 22 }; // pixels from the sheet, between lanes, before the margin

  // measure reads where everything is, before anything is changed.
  function measure(doc) {
    const origin = doc.getBoundingClientRect(), rows = new Map(), sources = new Map();
    for (const row of doc.querySelectorAll(".row[id]")) rows.set(row.id.slice(4), row);
    for (const tie of doc.querySelectorAll("[data-sources]")) {
      const to = tie.closest(".row"), knot = (tie.querySelector(".knot") ?? tie).getBoundingClientRect();
      const x = knot.left - origin.left - 4, y = knot.top - origin.top + Math.min(knot.height / 2, 15);
      for (const key of new Set(tie.dataset.sources.split(" "))) {
        const from = rows.get(key);
        if (!from || from === to) continue;
        if (!sources.has(key)) sources.set(key, { id: from.id, y: from.getBoundingClientRect().top - origin.top + 18, ends: [] });
        sources.get(key).ends.push({ id: to.id, x, y });
      }
    }
    return [...sources.values()];
  }

  // lanes gives each question that drives many a place between sheet and margin that no
  // other has where it runs.
  function lanes(sources, x1, x2) {
    const places = Math.max(1, Math.floor((x2 - x1 - lane.first - lane.last) / lane.wide)), until = Array(places).fill(-Infinity);
    for (const source of sources.toSorted((a, b) => a.y - b.y)) {
      if (source.ends.length <= FEW) continue;
      const low = Math.max(source.y, ...source.ends.map((e) => e.y));
      let at = until.findIndex((end) => end < Math.min(source.y, ...source.ends.map((e) => e.y)));
      if (at < 0) at = until.indexOf(Math.min(...until));
      until[at] = Math.max(until[at], low);
      source.lane = x1 + lane.first + at * lane.wide;
    }
  }

  const round = (n) => Math.round(n * 10) / 10;
  // arc is one on its own; along is one that runs in the lane of its question.
  const arc = (x1, y1, x2, y2) => {
    const reach = Math.min(52, (x2 - x1) * 0.7);
    return `M${round(x1)} ${round(y1)}C${round(x1 + reach)} ${round(y1)} ${round(x2 - reach)} ${round(y2)} ${round(x2)} ${round(y2)}`;
  };
  const along = (x1, y1, x, x2, y2) => {
    const bend = Math.min(12, Math.abs(y2 - y1) / 2) * Math.sign(y2 - y1);
    return `M${round(x1)} ${round(y1)}Q${round(x)} ${round(y1)} ${round(x)} ${round(y1 + bend)}V${round(y2 - bend)}Q${round(x)} ${round(y2)} ${round(x2)} ${round(y2)}`;
  };
  // ends are the beginning and the end of an arc whose middle is left out.
  const ends = (x1, y1, x2, y2) => {
    const down = Math.sign(y2 - y1), x = x1 + 16, z = x2 - 16;
    return `M${round(x1)} ${round(y1)}Q${round(x)} ${round(y1)} ${round(x)} ${round(y1 + down * STUB)}M${round(z)} ${round(y2 - down * STUB)}Q${round(z)} ${round(y2)} ${round(x2)} ${round(y2)}`;
  };

  function draw() {
    const svg = document.getElementById("arcs"), doc = document.getElementById("doc"), first = doc?.querySelector(".row");
    if (!svg || !doc || !first || getComputedStyle(svg).display === "none") { svg?.replaceChildren(); return; }
    const x1 = first.getBoundingClientRect().left + parseFloat(getComputedStyle(first).gridTemplateColumns) - doc.getBoundingClientRect().left;
    const sources = measure(doc);
    if (!sources.length) { svg.replaceChildren(); return; }
    lanes(sources, x1, Math.min(...sources.flatMap((s) => s.ends.map((e) => e.x))));
    const parts = [];
    for (const s of sources) {
      parts.push(`<g data-from="${s.id}">`);
      for (const e of s.ends) {
        const whole = s.lane ? along(x1, s.y, s.lane, e.x, e.y) : arc(x1, s.y, e.x, e.y), far = Math.abs(e.y - s.y) > FAR;
        parts.push(`<path d="${far ? ends(x1, s.y, e.x, e.y) : whole}"${far ? ` class="far" data-whole="${whole}"` : ""} data-to="${e.id}"/>`);
      }
      parts.push(`<circle cx="${round(x1)}" cy="${round(s.y)}" r="3.6"/></g>`);
    }
    svg.innerHTML = parts.join("") + '<g class="hot"></g>';
    heat(null);
  }

  // The arcs of the row pointed at, else of the one selected, stand out, drawn whole.
  function heat(pointed) {
    const svg = document.getElementById("arcs"), over = svg?.querySelector(".hot");
    if (!over) return;
    const row = pointed ?? document.querySelector(".row.sel");
    svg.classList.toggle("pointed", Boolean(row));
    over.replaceChildren();
    if (!row) return;
    const lines = new Map();
    for (const path of svg.querySelectorAll(`g[data-from="${row.id}"] path, path[data-to="${row.id}"]`))
      lines.set(path.parentNode, (lines.get(path.parentNode) ?? "") + (path.dataset.whole ?? path.getAttribute("d")));
    for (const [of, d] of lines) {
      const line = of.querySelector("path").cloneNode();
      line.setAttribute("d", d);
      over.append(line, of.querySelector("circle").cloneNode());
    }
  }

  let drawing;
  const later = () => { cancelAnimationFrame(drawing); drawing = requestAnimationFrame(draw); };
  const grown = new ResizeObserver(later);
  const watch = () => { const doc = document.getElementById("doc"); grown.disconnect(); if (doc) grown.observe(doc); later(); };
  document.addEventListener("DOMContentLoaded", watch);
  document.addEventListener("htmx:after:swap", watch);
  document.fonts?.ready.then(later);
  const point = (event) => { const row = event.target.closest?.(".doc .row"); if (row) heat(row); };
  document.addEventListener("pointerover", point);
  document.addEventListener("focusin", point);
  document.addEventListener("pointerout", (event) => { if (!event.relatedTarget?.closest?.(".row")) heat(null); });
})();
