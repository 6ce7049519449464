// What HTML and htmx cannot do for a form being filled: keep an appointment with
// the clock, and say when the connection is broken.
(() => {
  let timer;
  const appoint = () => {
    clearTimeout(timer);
    const form = document.getElementById("fill");
    const wait = Number(document.getElementById("clock")?.dataset.wait);
    if (form && wait > 0) timer = setTimeout(() => htmx.trigger(form, "clock"), wait);
  };
  const trouble = (broken) => {
    const note = document.getElementById("trouble");
    if (note) note.hidden = !broken;
  };
  document.addEventListener("htmx:error", () => trouble(true));
  document.addEventListener("htmx:after:swap", () => { trouble(false); appoint(); });
  // Inside another page: tell it how high the form is.
  if (parent !== self) addEventListener("DOMContentLoaded", () => {
    new ResizeObserver(() => parent.postMessage({ lazoHeight: document.documentElement.getBoundingClientRect().height }, "*")).observe(document.documentElement);
  });
  // What was typed survives a reload, where the form allows it: kept on this device
  // alone, never of sensitive items, and forgotten once it is sent.
  const memory = {
    // A browser may keep nothing at all; then nothing is remembered.
    read(address) { try { return JSON.parse(localStorage.getItem("lazo:" + address)) ?? {}; } catch { return {}; } },
    write(address, kept) { try { if (kept) localStorage.setItem("lazo:" + address, JSON.stringify(kept)); else localStorage.removeItem("lazo:" + address); } catch { /* not kept */ } },
    fields: (form) => [...form.elements].filter((f) => f.name && !f.name.startsWith("_") && f.type !== "hidden" && f.type !== "file" && !f.closest("[data-sensitive]")),
    keep(form) {
      const kept = memory.read(form.dataset.remember);
      for (const f of memory.fields(form)) {
        if (f.type === "checkbox" || f.type === "radio") kept[f.name + "=" + f.value] = f.checked;
        else kept[f.name] = f.value;
      }
      memory.write(form.dataset.remember, kept);
    },
    restore(form) {
      const kept = memory.read(form.dataset.remember);
      let changed = false;
      for (const f of memory.fields(form)) {
        const pick = f.type === "checkbox" || f.type === "radio", was = kept[pick ? f.name + "=" + f.value : f.name];
        if (was === undefined || f.dataset.restored) continue;
        f.dataset.restored = "yes";
        if (pick ? f.checked !== was : f.value === "" && was !== "") { if (pick) f.checked = was; else f.value = was; changed = true; }
      }
      if (changed) setTimeout(() => htmx.trigger(form, "clock"), 30); // once htmx is at work
    },
  };
  const remembering = () => document.querySelector("form[data-remember]");
  document.addEventListener("input", (event) => { if (event.target.form === remembering() && event.isTrusted) memory.keep(event.target.form); });
  document.addEventListener("htmx:after:swap", () => { const form = remembering(); if (form?.dataset.restoring) memory.restore(form); });
  addEventListener("DOMContentLoaded", () => {
    const form = remembering(), sent = document.body.dataset.received;
    if (sent) memory.write(sent, null);
    if (!form || document.getElementById("summary")) return;
    form.dataset.restoring = "yes";
    memory.restore(form);
  });
  // Times of the form's zone, in the visitor's own as well if that differs.
  document.addEventListener("DOMContentLoaded", () => {
    for (const time of document.querySelectorAll("time[data-zone]")) {
      const at = new Date(time.dateTime), say = (zone) => at.toLocaleString(document.documentElement.lang, { timeZone: zone, dateStyle: "medium", timeStyle: "short" });
      if (say(time.dataset.zone) !== say(undefined)) time.parentElement.append(" " + time.dataset.yours.replace("…", say(undefined)));
    }
  });
  // A second click while the first is under way would only send the same again.
  document.addEventListener("submit", (event) => {
    if (event.target.id !== "fill") return;
    if (event.target.dataset.sent) event.preventDefault();
    event.target.dataset.sent = "yes";
    setTimeout(() => delete event.target.dataset.sent, 4000);
  });
  // A file is sent as soon as it is chosen, by itself, so that the live changes
  // stay small and it is there when the page comes back with a problem.
  document.addEventListener("change", (event) => {
    const input = event.target;
    if (!input.matches?.("[data-file]") || input.form?.id !== "fill" || !input.files.length) return;
    htmx.ajax("POST", input.form.getAttribute("hx-post"), { source: input, swap: "none" });
  });
  // A signature can be drawn; the line to type it on is there for everyone.
  const drawing = () => {
    for (const box of document.querySelectorAll(".draw[hidden]")) {
      const canvas = box.querySelector("canvas"), pen = canvas.getContext("2d"), field = document.getElementById(box.dataset.draw);
      box.hidden = false;
      pen.lineWidth = 3;
      pen.lineCap = "round";
      let down = false;
      const at = (event) => {
        const r = canvas.getBoundingClientRect();
        return [(event.clientX - r.left) * canvas.width / r.width, (event.clientY - r.top) * canvas.height / r.height];
      };
      canvas.addEventListener("pointerdown", (event) => { down = true; canvas.setPointerCapture(event.pointerId); pen.beginPath(); pen.moveTo(...at(event)); });
      canvas.addEventListener("pointermove", (event) => { if (down) { pen.lineTo(...at(event)); pen.stroke(); } });
      canvas.addEventListener("pointerup", () => { down = false; field.value = canvas.toDataURL("image/png"); });
      box.querySelector("button").addEventListener("click", () => { pen.clearRect(0, 0, canvas.width, canvas.height); field.value = ""; });
    }
  };
  document.addEventListener("htmx:after:swap", drawing);
  document.addEventListener("DOMContentLoaded", drawing);
  // A long list of choices is narrowed by typing; without a script it is just long.
  const unhideSearch = () => { for (const find of document.querySelectorAll("[data-finds]")) find.hidden = false; };
  document.addEventListener("input", (event) => {
    const list = document.getElementById(event.target.dataset?.finds);
    if (!list) return;
    event.stopPropagation();
    const words = event.target.value.toLowerCase().split(/\s+/);
    for (const pick of list.children) pick.hidden = !pick.querySelector(":checked") && !words.every((word) => pick.textContent.toLowerCase().includes(word));
  }, true);
  document.addEventListener("htmx:after:swap", unhideSearch);
  document.addEventListener("DOMContentLoaded", () => {
    unhideSearch();
    appoint();
    document.getElementById("summary")?.focus();
  });
})();
