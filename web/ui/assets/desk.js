// What HTML and htmx cannot do for the desk: dragging, the keyboard, pointing at a reason,
// and keeping what could not be saved.
(() => {
  // Of a file that is only rehearsed its name is sent, as a browser without scripts would.
  document.addEventListener("htmx:config:request", (event) => {
    const { sourceElement, request } = event.detail?.ctx ?? {}, form = sourceElement?.closest?.("form[data-filenames]") ?? sourceElement?.form;
    if (!form?.matches("[data-filenames]")) return;
    for (const input of form.querySelectorAll("input[type=file][name]")) request.body?.set?.(input.name, input.files[0]?.name ?? "");
  });

  // A datalist offers all questions only while its field is empty.
  document.addEventListener("focusin", (event) => {
    if (!event.target.matches?.("input.subject")) return;
    event.target.placeholder = event.target.value;
    event.target.dataset.was = event.target.value;
    event.target.value = "";
  });
  document.addEventListener("focusout", (event) => {
    if (event.target.matches?.("input.subject") && event.target.value.trim() === "") event.target.value = event.target.dataset.was ?? "";
  });

  document.addEventListener("input", (event) => {
    const list = document.getElementById(event.target.dataset?.filters);
    if (!list) return;
    const words = event.target.value.toLowerCase().split(/\s+/);
    for (const label of list.children) label.hidden = !words.every((word) => label.textContent.toLowerCase().includes(word));
  });

  // A tie as it is written: how it reads, and the words that fit, as one types.
  let asking;
  const ask = (area) => {
    clearTimeout(asking);
    asking = setTimeout(() => {
      const fields = area.form.elements;
      htmx.ajax("POST", document.getElementById("desk").dataset.form + "/check", { target: "#" + area.dataset.check, swap: "innerHTML",
        values: { key: fields.key?.value ?? "", property: area.dataset.property ?? fields.property.value, source: area.value, caret: [...area.value.slice(0, area.selectionStart)].length } });
    }, 160);
  };
  document.addEventListener("input", (event) => { if (event.target.matches?.("textarea.writing")) ask(event.target); });
  const complete = (button) => {
    const area = document.querySelector(`textarea[data-check="${button.closest(".checked").id}"]`);
    const all = [...area.value];
    area.value = all.slice(0, Number(button.dataset.from)).join("") + button.dataset.text + all.slice(Number(button.dataset.to)).join("");
    area.focus();
    const caret = [...area.value].slice(0, Number(button.dataset.caret)).join("").length;
    area.setSelectionRange(caret, caret);
    ask(area);
  };
  // Pressing a proposal must not end the writing, or the tie would be saved half.
  document.addEventListener("mousedown", (event) => { if (event.target.closest?.(".complete")) event.preventDefault(); });
  document.addEventListener("click", (event) => { const button = event.target.closest?.(".complete"); if (button) complete(button); });
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Tab" || event.shiftKey || !event.target.matches?.("textarea.writing")) return;
    const first = document.querySelector("#" + event.target.dataset.check + " .complete");
    if (!first) return;
    // One may have typed on since the proposal came.
    const before = [...event.target.value.slice(0, event.target.selectionStart)], word = before.slice(Number(first.dataset.from)).join("").toLowerCase();
    if (Number(first.dataset.to) !== before.length && !(word && first.dataset.text.startsWith(word))) return;
    first.dataset.to = before.length;
    event.preventDefault();
    complete(first);
  });

  const post = marks.post;

  // The keyboard. Typing is never taken for a command.
  const typing = (node) => /^(INPUT|TEXTAREA|SELECT)$/.test(node.tagName);
  const press = (id) => document.getElementById(id)?.click();
  const step = (by) => {
    const rows = [...document.querySelectorAll(".row.item")];
    const here = rows.findIndex((row) => row.classList.contains("sel") || row.contains(document.activeElement));
    rows[Math.max(0, Math.min(rows.length - 1, here + by))]?.querySelector(".pick-row")?.focus();
  };
  const mark = () => {
    const row = document.activeElement?.closest?.(".row.item") ?? document.querySelector(".row.item.sel");
    row?.querySelector(".mark-box")?.click();
  };
  // Esc closes the open question, or leaves the line being written, and goes on
  // from the question that was open or stands before.
  let goTo;
  const leave = (from) => {
    // A tie that is being written is kept first; where that fails it stays open and says so.
    if (from.matches?.("textarea.writing") && from.value !== from.defaultValue) { from.blur(); return; }
    const open = document.querySelector(".row.sel"), rows = [...(from.closest(".items")?.querySelectorAll(".row.item") ?? [])];
    const row = open ?? rows.at(-1);
    if (typing(from)) from.blur();
    if (open && document.getElementById("close")) { goTo = row.id; press("close"); } else row?.querySelector(".pick-row")?.focus();
  };
  // Who opens a question by the keyboard goes on in its first field.
  let byKey = false;
  document.addEventListener("keydown", () => { byKey = true; }, true);
  document.addEventListener("pointerdown", () => { byKey = false; }, true);
  // What is folded leads back to what it was unfolded from; the link itself is gone by then.
  let back;
  document.addEventListener("click", (event) => { back = event.target.closest?.("[data-back]")?.dataset.back ?? back; }, true);
  let opening = false;
  document.addEventListener("keydown", (event) => { // from an empty line back to what was written last
    if (event.key !== "ArrowUp" || event.altKey || !event.target.matches?.(".write-line") || event.target.value) return;
    const last = [...event.target.closest(".items").querySelectorAll(".row.item")].at(-1)?.querySelector(".pick-row");
    if (!last) return;
    event.preventDefault();
    opening = true;
    last.click();
  });
  const refocus = (source) => {
    show();
    const folded = back && document.querySelector(`a#${back}`); // what was changed before may be answered first
    if (folded) { folded.focus(); back = null; return; }
    // Who has just written a title, or opens the question that was written last, goes on in it:
    // with its choices, if it has some. Who has written a question goes on with the next.
    const added = opening || /^add-(section|page)$/.test(source?.closest?.("form")?.elements.do?.value ?? "");
    opening = false;
    if (added) ["#f-choices", "#f-label", "#f-title"].map((id) => document.querySelector(`.row.sel .q ${id}`)).find(Boolean)?.focus();
    else if (goTo) document.querySelector("#" + CSS.escape(goTo) + " .pick-row")?.focus();
    else if (byKey && document.activeElement === document.body)
      document.querySelector(".row.sel .q :is(input:not([type=hidden], .mark-box), textarea)")?.focus();
    goTo = null;
  };
  // What a link or an undo leads to is brought into sight.
  let wanted;
  const show = () => {
    const jump = document.getElementById("jump")?.dataset.jump, row = document.getElementById(wanted ?? (jump ? "row-" + jump : ""));
    wanted = null;
    if (jump) document.getElementById("jump").dataset.jump = "";
    if (!row) return;
    const { top, bottom } = row.getBoundingClientRect();
    if (top < 60 || bottom > innerHeight - 60) row.scrollIntoView({ block: bottom - top > innerHeight - 160 ? "start" : "center" });
  };
  document.addEventListener("click", (event) => {
    const link = event.target.closest?.("a[hx-get][href*='#row-']");
    if (link && !event.target.closest(".pick-row, #close")) wanted = link.hash.slice(1);
  }, true);
  let jumped = -1;
  const nextRemark = () => {
    const all = [...document.querySelectorAll(".to-remark")];
    if (all.length) all[jumped = (jumped + 1) % all.length].click();
  };
  const commands = {
    "?": () => showKeys(),
    "/": () => press("find-in-form"),
    j: () => step(1),
    k: () => step(-1),
    n: () => (document.querySelector(".row.sel")?.closest(".items") ?? document).querySelector(".write-line")?.focus(),
    x: mark,
    t: () => document.getElementById("many-effect")?.focus(),
    d: () => press("duplicate"),
    f: () => press(document.getElementById("narrow") ? "narrow" : "show-all"),
    r: nextRemark,
  };
  // The list of keys and the help of a screen are pages of their own, shown here in a dialog.
  function showKeys(address = "/keys") {
    const open = document.querySelector("dialog.keys");
    if (open) { open.remove(); return; }
    fetch(address).then((answer) => answer.text()).then((text) => {
      const page = new DOMParser().parseFromString(text, "text/html"), box = document.createElement("dialog");
      box.className = "keys";
      box.setAttribute("aria-labelledby", "keys-title");
      const title = page.querySelector("h1");
      title.id = "keys-title";
      const close = document.createElement("button");
      close.className = "second";
      close.textContent = "Close";
      close.addEventListener("click", () => box.remove());
      box.append(title, page.querySelector("dl, .help-body"), close);
      document.body.append(box);
      box.showModal();
      box.addEventListener("close", () => box.remove());
    });
  }
  document.addEventListener("click", (event) => {
    const help = event.target.closest?.(".to-help");
    if (!help && !event.target.closest?.(".to-keys")) return;
    event.preventDefault();
    showKeys(help?.getAttribute("href") ?? "/keys");
  });
  // A menu that was opened closes when one goes elsewhere.
  const menu = (but) => [...document.querySelectorAll("details.menu[open]")].find((one) => !one.contains(but));
  document.addEventListener("click", (event) => { const open = menu(event.target); if (open) open.open = false; });
  document.addEventListener("keydown", (event) => {
    const inManuscript = document.getElementById("doc");
    if (event.key === "Escape" && menu()) {
      const open = menu();
      open.open = false;
      open.querySelector("summary").focus();
      return;
    }
    if (event.key === "Escape") {
      if (inManuscript && !document.querySelector("dialog.keys")) leave(event.target);
      else if (!inManuscript) press("done");
      return;
    }
    if (event.key === " " && event.target.matches?.(".mark-box")) return;
    if (event.key === "?" && !inManuscript && !typing(event.target)) { document.querySelector(".to-help")?.click(); return; }
    if (!inManuscript || (typing(event.target) && !event.altKey && !event.target.matches(".mark-box"))) return;
    if (event.altKey && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
      event.preventDefault();
      if (!marks.move(event.key === "ArrowUp")) press(event.key === "ArrowUp" ? "move-up" : "move-down");
    } else if ((event.ctrlKey || event.metaKey) && (event.key === "z" || event.key === "y")) {
      event.preventDefault();
      press(event.key === "y" || event.shiftKey ? "redo" : "undo");
    } else if (!event.ctrlKey && !event.metaKey && !event.altKey && !event.target.closest("button, summary, dialog")) {
      const command = commands[event.key];
      if (command) { event.preventDefault(); command(); }
    }
  });

  // Only the reasons' own box is scrolled: a page that moves under a press makes it miss.
  const whysTo = (why) => {
    const box = document.getElementById("whys"), [inside, around] = [why.getBoundingClientRect(), box.getBoundingClientRect()];
    if (inside.top < around.top) box.scrollTop += inside.top - around.top;
    else if (inside.bottom > around.bottom) box.scrollTop += Math.min(inside.bottom - around.bottom, inside.top - around.top);
  };
  // Pointing at a question of the rehearsal shows its reasons, and the other way round.
  const point = (event) => {
    const unit = event.target.closest?.(".paper .unit[data-key]");
    if (unit) {
      document.querySelectorAll(".why.pointed").forEach((why) => why.classList.remove("pointed"));
      const why = document.querySelector(`.why[data-why="${unit.dataset.key}"]`);
      why?.classList.add("pointed");
      if (event.type === "focusin" && why) whysTo(why);
    }
    const why = event.target.closest?.(".why");
    document.querySelectorAll(".unit.pointed").forEach((node) => node.classList.remove("pointed"));
    if (why) document.querySelectorAll(`.unit[data-key="${why.dataset.why}"]`).forEach((node) => node.classList.add("pointed"));
  };
  document.addEventListener("pointerover", point);
  document.addEventListener("focusin", point);

  // Whether keys are shown is remembered by this browser.
  const showsKeys = (on) => {
    document.documentElement.classList.toggle("with-keys", on);
    const box = document.getElementById("show-keys");
    if (box) box.checked = on;
  };
  const remembered = () => { try { return localStorage.getItem("lazo-keys") === "1"; } catch { return false; } };
  document.addEventListener("DOMContentLoaded", () => showsKeys(remembered()));
  document.addEventListener("change", (event) => {
    if (event.target.id !== "show-keys") return;
    try { localStorage.setItem("lazo-keys", event.target.checked ? "1" : ""); } catch { /* not remembered */ }
    showsKeys(event.target.checked);
  });

  // What a workspace says of itself stays folded in this browser once it was folded.
  document.addEventListener("DOMContentLoaded", () => {
    const about = document.getElementById("about");
    if (!about) return;
    try { about.open = localStorage.getItem("lazo-about") !== about.textContent.length.toString(); } catch { /* not remembered */ }
    about.addEventListener("toggle", () => { try { localStorage.setItem("lazo-about", about.open ? "" : about.textContent.length.toString()); } catch { /* not remembered */ } });
  });

  // Time zones are those that the browser knows; a new form has the one that it is in.
  document.addEventListener("DOMContentLoaded", () => {
    for (const field of document.querySelectorAll("[data-own-zone]")) field.value = Intl.DateTimeFormat().resolvedOptions().timeZone ?? "";
  });
  document.addEventListener("focusin", (event) => {
    const list = event.target.matches?.("[data-zones]") && document.getElementById("zones");
    if (!list || list.children.length) return;
    list.append(...Intl.supportedValuesOf("timeZone").map((zone) => Object.assign(document.createElement("option"), { value: zone })));
  });

  // A zone is said where it is not the reader's own; names differ, clocks don't.
  const clock = (zone) => ["2026-01-15T12:00Z", "2026-07-15T12:00Z"].map((at) => new Date(at).toLocaleString("en", { timeZone: zone })).join();
  const zones = () => {
    for (const said of document.querySelectorAll("[data-zone]")) try { said.hidden = clock(said.dataset.zone) === clock(); } catch { /* said */ }
  };
  document.addEventListener("DOMContentLoaded", zones);
  document.addEventListener("htmx:after:swap", zones);

  // What stands in an element is copied, where browsers let pages do so.
  const copies = () => { for (const button of document.querySelectorAll("[data-copies]")) button.hidden = !navigator.clipboard; };
  document.addEventListener("DOMContentLoaded", copies);
  document.addEventListener("htmx:after:swap", copies);
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("[data-copies]");
    if (button) navigator.clipboard.writeText(document.getElementById(button.dataset.copies).textContent).then(() => { button.textContent = "Copied"; });
  });

  const saved = (text) => { const node = document.querySelector(".saved"); if (node) node.textContent = text; };

  // What is looked at stays so when the page is loaded again. The library's own history is
  // switched off, since Back would bring pages that are no longer so.
  document.addEventListener("htmx:after:swap", (event) => {
    const to = event.detail?.ctx?.hx?.replaceurl;
    if (to) history.replaceState(history.state, "", to);
  });

  // What could not be saved is kept in this browser tab, said, and offered again: when
  // the server is back, or after one has signed in once more.
  const place = () => "lazo-unsaved:" + document.getElementById("desk")?.dataset.form;
  const unsaved = {
    all() { try { return JSON.parse(sessionStorage.getItem(place())) ?? []; } catch { return []; } },
    keep(list) { try { if (list.length) sessionStorage.setItem(place(), JSON.stringify(list)); else sessionStorage.removeItem(place()); } catch { /* not kept */ } },
    words: ["value", "source", "label", "message", "subject", "name", "text"],
    text(fields) { return fields.find(([name, value]) => unsaved.words.includes(name) && value.trim())?.[1] ?? ""; },
    add(body, why) {
      const fields = [...(body ?? [])].filter(([name, value]) => name !== "version" && typeof value === "string");
      const list = unsaved.all().filter((u) => JSON.stringify(u.filter(([n]) => !unsaved.words.includes(n))) !== JSON.stringify(fields.filter(([n]) => !unsaved.words.includes(n))));
      unsaved.keep([...list, fields]);
      unsaved.show(why);
    },
    // A condition that was written and refused stays in its field; once that is left for
    // another question it is kept here, until it is right or let go.
    written(body) {
      const fields = [...(body ?? [])].filter(([name, value]) => name !== "version" && typeof value === "string");
      const of = Object.fromEntries(fields);
      return of.source !== undefined && of.property !== undefined ? { fields, place: of.key + " " + of.property } : null;
    },
    refused(body) {
      const it = unsaved.written(body);
      if (it) unsaved.keep([...unsaved.all().filter((u) => unsaved.written(u)?.place !== it.place), it.fields]);
    },
    taken(body) {
      const of = Object.fromEntries([...(body ?? [])].filter(([, value]) => typeof value === "string"));
      const place = (of.key ?? "") + " " + (of.property ?? "");
      const left = unsaved.all().filter((u) => unsaved.written(u)?.place !== place);
      if (left.length !== unsaved.all().length) { unsaved.keep(left); unsaved.show(); }
      const away = left.some((u) => unsaved.written(u) && ![...document.querySelectorAll("textarea[name=source]")].some((area) => area.value === unsaved.text(u)));
      if (away && !document.getElementById("unsaved")) unsaved.show("Not saved: a condition is not right yet.");
    },
    show(why) {
      document.getElementById("unsaved")?.remove();
      const list = unsaved.all();
      if (!list.length || !document.getElementById("doc")) return;
      const box = document.createElement("div");
      box.id = "unsaved";
      box.className = "flash unsaved";
      box.setAttribute("role", "alert");
      const head = document.createElement("p");
      head.textContent = (why ?? "This could not be saved before.") + " ";
      if (why?.includes("signed out")) {
        const link = document.createElement("a");
        Object.assign(link, { href: "/sign-in?to=" + encodeURIComponent(location.pathname + location.search), textContent: "Sign in again" });
        head.append(link);
      }
      box.append(head);
      list.forEach((fields, at) => {
        const line = document.createElement("p"), text = unsaved.text(fields);
        line.textContent = text ? "“" + text + "” " : "A change without a text. ";
        const button = (words, act) => {
          const b = document.createElement("button");
          Object.assign(b, { type: "button", className: "quiet", textContent: words });
          b.addEventListener("click", () => { unsaved.keep(unsaved.all().filter((_, i) => i !== at)); act(); });
          line.append(b);
        };
        button("Save it now", () => { unsaved.show(); post(document.getElementById("desk").dataset.form, Object.fromEntries(fields)); });
        button("Let it go", () => unsaved.show());
        box.append(line);
      });
      document.getElementById("doc").prepend(box);
      saved("Not saved");
    },
  };
  const isEdit = (ctx) => Boolean(ctx?.request?.action?.endsWith?.("/edit"));
  document.addEventListener("htmx:before:response", (event) => {
    const { ctx } = event.detail ?? {};
    const status = ctx?.response?.status ?? 200;
    // An answer of anything in between, or of an error, is not put into the page.
    if (status < 500 && status !== 401 && status !== 404 && status !== 413) return;
    event.preventDefault();
    if (!isEdit(ctx)) { saved(status === 401 ? "You are signed out" : "Not loaded: the server can’t answer right now"); return; }
    sent = null;
    unsaved.add(ctx.request.body, status === 401 ? "Not saved: you are signed out." : status === 404 ? "Not saved: this form is no longer there." : "Not saved: the server can’t answer right now.");
  });
  document.addEventListener("DOMContentLoaded", () => unsaved.show());

  // Morphing keeps what is in the fields; the manuscript's fields must show what
  // was saved, after an undo too. Only a field being typed in is left alone, and what was
  // typed since the change was sent that is answered now.
  let sent, typed = 0;
  const typedAt = new WeakMap();
  const touched = (event) => typedAt.set(event.target, ++typed);
  document.addEventListener("input", touched, true);
  document.addEventListener("keydown", (event) => { if (event.target.matches?.("input, select") && !/^(Tab|Shift|Enter|Escape)$/.test(event.key)) touched(event); }, true); // half a date is no input yet
  document.addEventListener("focusin", (event) => { if (event.target.matches?.("input.subject")) touched(event); });
  const reset = (fields, asked) => {
    for (const field of fields) {
      if ((typedAt.get(field) ?? 0) > asked) continue;
      if (field.type === "checkbox" || field.type === "radio") field.checked = field.defaultChecked;
      else if (field.tagName === "SELECT") {
        for (const option of field.options) if (option.selected !== option.defaultSelected) option.selected = option.defaultSelected;
        if (!field.multiple && field.selectedIndex < 0) field.selectedIndex = 0;
      } else if ("defaultValue" in field && field.type !== "hidden" && field.value !== field.defaultValue) field.value = field.defaultValue;
    }
  };
  const settle = (failed, asked) => {
    if (failed) sent = null; // what was typed stays, to be mended
    const active = document.activeElement;
    const busy = /^(INPUT|TEXTAREA)$/.test(active?.tagName) ? active.form : null;
    for (const form of document.querySelectorAll(".ms form")) if (failed ? !form.contains(failed) : form !== busy || form === sent) reset(form.elements, asked);
    sent = null;
    marks.count();
  };
  const changesNothing = (source) => Boolean(source?.matches?.("details") || source?.closest?.(".here, .loose, .then-list, .checked, .proving"));
  document.addEventListener("htmx:before:request", (event) => {
    const source = event.detail?.ctx?.sourceElement;
    if (source?.closest(".loose")) event.detail.ctx.typed = typed;
    if (changesNothing(source) || event.detail?.ctx?.request?.action?.endsWith?.("/check")) return;
    saved("Saving …");
    event.detail.ctx.typed = typed;
    sent = source?.closest("form");
    const line = sent?.querySelector(".write-line");
    if (line) line.value = ""; // the next question can be written meanwhile
  });
  document.addEventListener("htmx:error", (event) => {
    const ctx = event.detail?.ctx;
    sent = null;
    if (isEdit(ctx)) unsaved.add(ctx.request.body, "Not saved: the connection is broken.");
    else if (ctx) saved("The connection is broken");
  });
  document.addEventListener("htmx:after:swap", (event) => {
    const { sourceElement: source, target } = event.detail?.ctx ?? {};
    if (target?.matches?.(".loose")) reset(target.querySelectorAll("input, select"), event.detail.ctx.typed ?? typed);
    if (changesNothing(source) || target?.matches?.(".checked")) return;
    const refused = (event.detail?.ctx?.response?.status ?? 200) >= 400;
    settle(refused ? source : null, event.detail?.ctx?.typed ?? typed);
    const body = event.detail?.ctx?.request?.body;
    const line = refused && source?.querySelector?.(".write-line");
    if (line && !line.value) line.value = body?.get?.("label") ?? "";
    if (refused) { saved("Not saved"); unsaved.refused(body); } else unsaved.taken(body);
    showsKeys(document.documentElement.classList.contains("with-keys"));
    refocus(refused ? null : source);
    refusal?.remove();
    refusal = null;
    if (refused) inSight(source);
    fade();
  });
  // Why something was refused stands at what was touched, and is brought into sight.
  let refusal;
  const inSight = (source) => {
    const form = source?.closest?.("form") ?? source, notice = document.querySelector("#notices .flash[role=alert]");
    if (notice && form?.isConnected && form.closest("#desk")) {
      notice.id = "refusal"; // so that nothing that comes is taken for it
      notice.classList.add("problem", "col-span-full", "basis-full");
      if (form.matches(".marked-bar")) form.append(notice); else form.after(notice);
      refusal = notice;
    }
    const why = refusal ?? document.querySelector(".row.sel .problem, #notices .flash[role=alert]");
    if (!why) return;
    const { top, bottom } = why.getBoundingClientRect();
    if (top < 0 || bottom > innerHeight - 40) why.scrollIntoView({ block: "center" });
  };
  // What was said of the last change makes way after a while, unless it is pointed at.
  const fade = () => {
    const said = document.querySelector(".flash.said");
    if (said) setTimeout(() => { if (said.matches(":hover")) fade(); else said.remove(); }, 9000);
  };
})();
