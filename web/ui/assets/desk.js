// What HTML and htmx cannot do for the desk: the arcs from questions to the ties
// that depend on them, dragging, the keyboard, and pointing at a reason.
(() => {
  const svg = "http://www.w3.org/2000/svg";
  const el = (name, attributes) => {
    const node = document.createElementNS(svg, name);
    for (const [key, value] of Object.entries(attributes)) node.setAttribute(key, value);
    return node;
  };

  // Arcs run from a question's right edge to the margin lines that name it.
  function drawArcs() {
    const arcs = document.getElementById("arcs"), doc = document.getElementById("doc");
    if (!arcs || !doc) return;
    arcs.replaceChildren();
    const origin = doc.getBoundingClientRect();
    for (const tie of doc.querySelectorAll("[data-sources]")) {
      const owner = tie.closest(".row")?.id;
      for (const key of tie.dataset.sources.split(" ")) {
        const row = document.getElementById("row-" + key);
        if (!row || row.id === owner) continue;
        const from = row.querySelector(".q").getBoundingClientRect();
        const to = (tie.querySelector(".knot") ?? tie).getBoundingClientRect();
        const x1 = doc.querySelector(".row").getBoundingClientRect().left + parseFloat(getComputedStyle(row).gridTemplateColumns) - origin.left;
        const y1 = from.top - origin.top + 18, x2 = to.left - origin.left - 4, y2 = to.top - origin.top + Math.min(to.height / 2, 15);
        const reach = Math.min(52, (x2 - x1) * 0.7);
        const g = el("g", { "data-from": row.id, "data-to": owner });
        g.append(el("path", { d: `M${x1} ${y1}C${x1 + reach} ${y1} ${x2 - reach} ${y2} ${x2} ${y2}` }), el("circle", { cx: x1, cy: y1, r: 3.6 }));
        arcs.append(g);
      }
    }
    heat(null);
  }

  // The arcs of the row pointed at, else of the one selected, stand out.
  function heat(pointed) {
    const arcs = document.getElementById("arcs");
    if (!arcs) return;
    const row = pointed ?? document.querySelector(".row.sel");
    arcs.classList.toggle("pointed", Boolean(row));
    for (const g of arcs.children) g.classList.toggle("hot", Boolean(row) && (g.dataset.from === row.id || g.dataset.to === row.id));
  }

  const post = (form, fields) => {
    const body = new URLSearchParams({ version: document.querySelector("[name=version]").value, ...fields });
    htmx.ajax("POST", form + "/edit", { target: "#desk", swap: "outerMorph", values: Object.fromEntries(body) });
  };

  // Dragging a question to another line.
  let dragged;
  document.addEventListener("dragstart", (event) => {
    dragged = event.target.closest?.(".row.item");
    dragged?.classList.add("dragged");
  });
  const half = (row, event) => event.clientY < row.getBoundingClientRect().top + row.offsetHeight / 2 ? "drop-before" : "drop-after";
  const unmark = () => document.querySelectorAll(".drop-before, .drop-after").forEach((row) => row.classList.remove("drop-before", "drop-after"));
  document.addEventListener("dragover", (event) => {
    const row = event.target.closest?.(".row.item");
    if (!dragged || !row) return;
    event.preventDefault();
    unmark();
    row.classList.add(half(row, event));
  });
  document.addEventListener("drop", (event) => {
    const row = event.target.closest?.(".row.item");
    if (!dragged || !row || row === dragged) return;
    event.preventDefault();
    const index = Number(row.dataset.index) + (half(row, event) === "drop-after" ? 1 : 0);
    post(document.getElementById("desk").dataset.form, { do: "move", key: dragged.dataset.key, into: row.dataset.section, index, at: dragged.dataset.key });
  });
  document.addEventListener("dragend", () => { dragged?.classList.remove("dragged"); dragged = null; unmark(); });

  // The keyboard. Typing is never taken for a command.
  const typing = (node) => /^(INPUT|TEXTAREA|SELECT)$/.test(node.tagName);
  const press = (id) => document.getElementById(id)?.click();
  const step = (by) => {
    const rows = [...document.querySelectorAll(".row.item")];
    const here = rows.findIndex((row) => row.classList.contains("sel") || row.contains(document.activeElement));
    rows[Math.max(0, Math.min(rows.length - 1, here + by))]?.querySelector(".pick-row")?.focus();
  };
  const commands = [
    ["?", "these keys", () => showKeys()],
    ["j", "next question", () => step(1)],
    ["k", "question before", () => step(-1)],
    ["Enter", "open the question in focus", null],
    ["Esc", "close the open question", null],
    ["n", "write a new question", () => (document.querySelector(".row.sel")?.closest(".items") ?? document).querySelector(".write-line")?.focus()],
    ["Alt+↑ Alt+↓", "move the open question", null],
    ["d", "duplicate the open question", () => press("duplicate")],
    ["Ctrl+Z", "undo", null],
    ["Ctrl+Y", "redo", null],
  ];
  function showKeys() {
    const open = document.querySelector(".keys");
    if (open) { open.remove(); return; }
    const box = document.createElement("section");
    box.className = "keys";
    box.setAttribute("aria-label", "Keys");
    box.tabIndex = -1;
    const title = document.createElement("h2"), list = document.createElement("dl");
    title.textContent = "Keys";
    for (const [key, what] of commands) {
      const dt = document.createElement("dt"), dd = document.createElement("dd");
      dt.textContent = key;
      dd.textContent = what;
      list.append(dt, dd);
    }
    box.append(title, list);
    document.body.append(box);
    box.focus();
  }
  document.addEventListener("keydown", (event) => {
    const inManuscript = document.getElementById("doc");
    if (event.key === "Escape") {
      document.querySelector(".keys")?.remove();
      if (inManuscript) press("close");
      return;
    }
    if (!inManuscript || (typing(event.target) && !event.altKey)) return;
    if (event.altKey && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
      event.preventDefault();
      press(event.key === "ArrowUp" ? "move-up" : "move-down");
    } else if ((event.ctrlKey || event.metaKey) && (event.key === "z" || event.key === "y")) {
      event.preventDefault();
      press(event.key === "y" || event.shiftKey ? "redo" : "undo");
    } else if (!event.ctrlKey && !event.metaKey && !event.altKey) {
      const command = commands.find(([key, , run]) => key === event.key && run);
      if (command) { event.preventDefault(); command[2](); }
    }
  });

  // Pointing: arcs in the manuscript, reasons in the rehearsal.
  const point = (event) => {
    const row = event.target.closest?.(".doc .row");
    if (row) heat(row);
    const unit = event.target.closest?.(".paper .unit[data-key]");
    if (unit) {
      document.querySelectorAll(".why.pointed").forEach((why) => why.classList.remove("pointed"));
      const why = document.querySelector(`.why[data-why="${unit.dataset.key}"]`);
      why?.classList.add("pointed");
      if (event.type === "focusin") why?.scrollIntoView({ block: "nearest" });
    }
    const why = event.target.closest?.(".why");
    document.querySelectorAll(".unit.pointed").forEach((node) => node.classList.remove("pointed"));
    if (why) document.querySelectorAll(`.unit[data-key="${why.dataset.why}"]`).forEach((node) => node.classList.add("pointed"));
  };
  document.addEventListener("pointerover", point);
  document.addEventListener("focusin", point);
  document.addEventListener("pointerout", (event) => { if (!event.relatedTarget?.closest?.(".row")) heat(null); });

  const saved = (text) => { const node = document.querySelector(".saved"); if (node) node.textContent = text; };
  // Morphing keeps what is in the fields; the manuscript's fields must show what
  // was saved, after an undo too. Only a field being typed in is left alone.
  let sent;
  const settle = () => {
    const active = document.activeElement;
    const busy = /^(INPUT|TEXTAREA)$/.test(active?.tagName) ? active.form : null;
    for (const form of document.querySelectorAll(".ms form")) if (form !== busy || form === sent) form.reset();
    sent = null;
  };
  document.addEventListener("htmx:before:request", (event) => {
    saved("Saving …");
    sent = event.detail?.ctx?.sourceElement?.closest("form");
  });
  document.addEventListener("htmx:error", () => saved("Not saved: the connection is broken"));
  document.addEventListener("htmx:after:swap", () => { settle(); drawArcs(); });
  document.addEventListener("DOMContentLoaded", drawArcs);
  addEventListener("resize", drawArcs);
  document.fonts?.ready.then(drawArcs);
})();
