// Several questions of the manuscript at once: they are marked, dragged to another line, and
// moved by the keyboard over the borders of sections and pages.
/* exported marks */
/* eslint no-redeclare: ["error", { "builtinGlobals": false }] */
var marks = (() => {
  // post makes a change of the draft.
  const post = (form, fields) => {
    const values = new URLSearchParams();
    for (const name of ["version", "was", "wastied"]) values.set(name, document.querySelector(`#draft-state [name=${name}]`)?.value ?? "");
    const faulty = document.querySelector("#draft-state [name=faulty]");
    if (faulty) values.set("faulty", "yes");
    const body = {};
    for (const [name, value] of values) body[name] = value;
    htmx.ajax("POST", form + "/edit", { target: "#desk", swap: "outerMorph", values: { ...body, ...fields } });
  };
  const form = () => document.getElementById("desk").dataset.form;

  const boxes = () => [...document.querySelectorAll(".mark-box")];
  const marked = () => boxes().filter((box) => box.checked).map((box) => box.value);
  // How many are marked is said; with Shift, all between two are.
  const count = () => {
    const n = marked().length, bar = document.getElementById("marked-count");
    if (bar) bar.textContent = n + " marked:";
    document.body.classList.toggle("marking", n > 0);
  };
  let last;
  document.addEventListener("click", (event) => {
    if (event.target.id === "unmark") { for (const box of boxes()) box.checked = false; count(); return; }
    if (!event.target.matches?.(".mark-box")) return;
    if (event.shiftKey && last) {
      const all = boxes(), [from, to] = [all.findIndex((b) => b.value === last), all.indexOf(event.target)].sort((x, y) => x - y);
      if (from >= 0) for (const box of all.slice(from, to + 1)) box.checked = event.target.checked;
    }
    last = event.target.value;
    count();
  });

  // What is dragged is the question that was taken, with all others that are marked if it is.
  let dragged = [];
  const rowOf = (key) => document.getElementById("row-" + key);
  document.addEventListener("dragstart", (event) => {
    const row = event.target.closest?.(".row.item");
    if (!row) return;
    dragged = marked().includes(row.dataset.key) ? marked() : [row.dataset.key];
    for (const key of dragged) rowOf(key)?.classList.add("dragged");
    event.dataTransfer?.setData("text/plain", row.querySelector(".pick-row")?.textContent ?? "");
  });
  // On the title of a page or section it goes to the beginning of what follows.
  const begins = (head) => {
    const items = [...document.querySelectorAll(".items")].find((list) => head.compareDocumentPosition(list) & Node.DOCUMENT_POSITION_FOLLOWING);
    const first = items && [...items.querySelectorAll(".row.item")].find((row) => !dragged.includes(row.dataset.key));
    return first ? { row: first, behind: false } : items ? { items } : null;
  };
  const place = (event) => {
    const head = event.target.closest?.(".row.head, .row.sub");
    if (head) return begins(head);
    const row = event.target.closest?.(".row.item"), items = event.target.closest?.(".items");
    if (row && !dragged.includes(row.dataset.key))
      return { row, behind: event.clientY >= row.getBoundingClientRect().top + row.offsetHeight / 2 };
    return items && !row ? { items } : null;
  };
  const unmark = () => document.querySelectorAll(".drop-before, .drop-after, .drop-into").forEach((row) => row.classList.remove("drop-before", "drop-after", "drop-into"));
  document.addEventListener("dragover", (event) => {
    const to = dragged.length && place(event);
    if (!to) return;
    event.preventDefault();
    unmark();
    to.row?.classList.add(to.behind ? "drop-after" : "drop-before");
    to.items?.classList.add("drop-into");
  });
  document.addEventListener("drop", (event) => {
    const to = dragged.length && place(event);
    if (!to) return;
    event.preventDefault();
    move(dragged, to.row ? { beside: to.row.dataset.key, behind: to.behind ? "true" : "" } : { into: to.items.dataset.section });
  });
  document.addEventListener("dragend", () => { for (const key of dragged) rowOf(key)?.classList.remove("dragged"); dragged = []; unmark(); });

  const move = (keys, to) => post(form(), { do: "move", mark: keys.join(","), ...to, at: document.querySelector(".row.sel")?.dataset.key ?? "" });

  // moveMarked moves what is marked by one line, and over the border of a section into the
  // next one; false if nothing is.
  const moveMarked = (up) => {
    const keys = marked();
    if (!keys.length) return false;
    const rows = keys.map(rowOf).filter(Boolean), edge = up ? rows[0] : rows.at(-1);
    const next = up ? edge.previousElementSibling : edge.nextElementSibling;
    if (next?.matches(".row.item")) { move(keys, { beside: next.dataset.key, behind: up ? "" : "true" }); return true; }
    const all = [...document.querySelectorAll(".items")], items = all[all.indexOf(edge.closest(".items")) + (up ? -1 : 1)];
    if (!items) return true;
    const first = items.querySelector(".row.item");
    move(keys, up || !first ? { into: items.dataset.section } : { beside: first.dataset.key, behind: "" });
    return true;
  };

  // What is copied or cut is only named; it is looked up where it is pasted, which can be in
  // another form. It comes behind the question that is open or in focus.
  const held = "lazo-copied";
  const chosen = () => {
    const row = document.activeElement?.closest?.(".row.item") ?? document.querySelector(".row.item.sel");
    return marked().length ? marked() : row ? [row.dataset.key] : [];
  };
  const copy = (event) => {
    if (!document.getElementById("doc") || /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName) && !event.target.matches(".mark-box")) return;
    if (!getSelection()?.isCollapsed) return;
    const keys = chosen();
    if (!keys.length) return;
    event.preventDefault();
    const from = form().split("/").pop();
    try { localStorage.setItem(held, JSON.stringify({ from, keys, cut: event.type === "cut" })); } catch { return; }
    event.clipboardData?.setData("text/plain", keys.map((key) => rowOf(key)?.querySelector(".pick-row")?.textContent ?? key).join("\n"));
    say(`${keys.length === 1 ? "One question" : keys.length + " questions"} ${event.type === "cut" ? "cut" : "copied"}; Ctrl+V puts ${keys.length === 1 ? "it" : "them"} elsewhere, in another form too`);
  };
  document.addEventListener("copy", copy);
  document.addEventListener("cut", copy);
  document.addEventListener("paste", (event) => {
    if (!document.getElementById("doc") || /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName) && !event.target.matches(".mark-box")) return;
    let it = null;
    try { it = JSON.parse(localStorage.getItem(held)); } catch { /* nothing was copied */ }
    if (!it) return;
    event.preventDefault();
    const row = document.activeElement?.closest?.(".row.item") ?? document.querySelector(".row.item.sel") ?? [...document.querySelectorAll(".row.item")].at(-1);
    const items = document.activeElement?.closest?.(".items") ?? document.querySelector(".items");
    const to = row ? { beside: row.dataset.key } : { into: items?.dataset.section ?? "" };
    if (it.cut) localStorage.removeItem(held);
    if (it.cut && it.from === form().split("/").pop()) { move(it.keys, row ? { ...to, behind: "true" } : to); return; }
    post(form(), { do: "paste", from: it.from, mark: it.keys.join(","), cut: it.cut ? "yes" : "", at: "", ...to });
  });
  const say = (words) => { const node = document.querySelector(".saved"); if (node) node.textContent = words; };

  return { post, count, move: moveMarked };
})();
