// A form being filled, in public and in the rehearsal: what the respondent has
// touched, and that after every answer of the server each control says what the
// outcome says, except where the respondent has gone on since it was asked.
(() => {
  // What was done to each control, counted, so that an answer is never put over
  // what is newer than the question that it answers.
  let count = 0;
  const changed = new Map();
  const inForm = (node) => node.form && (node.form.id === "fill" || node.form.id === "rehearse");
  const touch = (event) => {
    const control = event.target;
    if (!control.name || !inForm(control)) return;
    changed.set(control.name, ++count);
    const unit = control.closest(".unit");
    for (const own of unit?.querySelectorAll("[data-own]") ?? []) own.value = "yes";
    // Another pick takes the place of one that is set aside; of several picks it does not.
    if (control.type === "radio" || control.type === "select-one") for (const aside of unit?.querySelectorAll("[data-aside]") ?? []) aside.remove();
  };
  document.addEventListener("input", touch, true);
  document.addEventListener("change", touch, true);
  // Who presses a choice that stands there by itself chooses it, though a browser
  // sees no change in that.
  document.addEventListener("click", (event) => {
    const own = event.target.type === "radio" && inForm(event.target) && event.target.closest(".unit")?.querySelector("[data-own]");
    if (own && !own.value) event.target.dispatchEvent(new Event("change", { bubbles: true }));
  });

  const picks = (control) => control.type === "checkbox" || control.type === "radio";
  const keyOf = (control) => (picks(control) ? control.name + "=" + control.value : control.name);
  const controls = (root) => [...(root?.querySelectorAll("input[name], select[name], textarea[name]") ?? [])].filter((c) => c.type !== "file" && inForm(c));
  const stateOf = (control) => {
    if (picks(control)) return control.checked;
    if (control.tagName === "SELECT") return [...control.options].filter((o) => o.selected).map((o) => o.value);
    return control.value;
  };
  const setState = (control, state) => {
    if (picks(control)) control.checked = state;
    else if (control.tagName === "SELECT") for (const o of control.options) o.selected = state.includes(o.value);
    else if (control.value !== state) {
      const at = control === document.activeElement && control.selectionStart;
      control.value = state;
      if (typeof at === "number") try { control.setSelectionRange(at, at); } catch { /* a field without a caret */ }
    }
  };
  const said = (control) => {
    if (picks(control)) return control.defaultChecked;
    if (control.tagName === "SELECT") {
      const chosen = [...control.options].filter((o) => o.defaultSelected).map((o) => o.value);
      return chosen.length || control.multiple ? chosen : [control.options[0]?.value];
    }
    return control.defaultValue;
  };

  document.addEventListener("htmx:before:request", (event) => {
    const ctx = event.detail?.ctx;
    if (ctx) ctx.asked = count;
  });
  // What is newer than the question, as it stands before the answer is put in.
  document.addEventListener("htmx:before:swap", (event) => {
    const { ctx, tasks } = event.detail ?? {};
    if (!ctx) return;
    ctx.swapped = (tasks ?? []).map((task) => task.target?.id).filter(Boolean);
    ctx.newer = new Map();
    for (const form of [document.getElementById("fill"), document.getElementById("rehearse")]) {
      for (const c of controls(form)) if ((changed.get(c.name) ?? 0) > (ctx.asked ?? 0)) ctx.newer.set(keyOf(c), stateOf(c));
    }
  });
  document.addEventListener("htmx:after:swap", (event) => {
    const ctx = event.detail?.ctx;
    if (!ctx?.swapped) return;
    for (const id of ctx.swapped) {
      for (const c of controls(document.getElementById(id))) {
        const newer = ctx.newer.has(keyOf(c));
        setState(c, newer ? ctx.newer.get(keyOf(c)) : said(c));
        if (newer) for (const own of c.closest(".unit")?.querySelectorAll("[data-own]") ?? []) own.value = "yes";
      }
      // What was sent is not sent again with the page.
      for (const file of document.getElementById(id)?.querySelectorAll("[data-file]") ?? []) if (file.parentElement.querySelector('[name$=".id"]')) file.value = "";
      const focus = document.getElementById(id)?.querySelector("[data-focus]");
      if (focus) (focus.matches("button") ? focus : focus.querySelector("input:not([type=hidden]), select, textarea"))?.focus();
    }
  });

  // Who looks for a choice goes on with it by Enter, rather than to the next page.
  for (const type of ["keydown", "keypress"]) document.addEventListener(type, (event) => {
    if (event.key === "Enter" && event.target.matches?.("[data-find]")) event.preventDefault();
  });

  // A date is pasted as people write it; browsers take none but their own way.
  document.addEventListener("paste", (event) => {
    if (!event.target.matches?.("input[type=date]")) return;
    const text = event.clipboardData?.getData("text").trim() ?? "";
    const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(text), other = /^(\d{1,2})\s*[./ -]\s*(\d{1,2})\s*[./ -]\s*(\d{4})$/.exec(text);
    if (!iso && !other) return;
    const monthFirst = document.documentElement.lang === "en-US" || (document.documentElement.lang === "en" && text.includes("/") && navigator.language === "en-US");
    const [year, month, day] = iso ? iso.slice(1) : monthFirst ? [other[3], other[1], other[2]] : [other[3], other[2], other[1]];
    event.preventDefault();
    event.target.value = `${year}-${month.padStart(2, "0")}-${day.padStart(2, "0")}`;
    event.target.dispatchEvent(new Event("input", { bubbles: true }));
    event.target.dispatchEvent(new Event("change", { bubbles: true }));
  });

  // A signature can be drawn; the line to type it on is there for everyone.
  const drawing = () => {
    for (const box of document.querySelectorAll(".draw[hidden]")) {
      const canvas = box.querySelector("canvas"), pen = canvas.getContext("2d");
      const field = () => document.getElementById(box.dataset.draw);
      const say = (value) => {
        field().value = value;
        field().dispatchEvent(new Event("input", { bubbles: true }));
      };
      box.hidden = false;
      pen.lineWidth = 3;
      pen.lineCap = "round";
      if (field().value) {
        const before = new Image();
        before.addEventListener("load", () => pen.drawImage(before, 0, 0));
        before.src = field().value;
      }
      let down = false;
      const at = (event) => {
        const r = canvas.getBoundingClientRect();
        return [(event.clientX - r.left) * canvas.width / r.width, (event.clientY - r.top) * canvas.height / r.height];
      };
      canvas.addEventListener("pointerdown", (event) => { down = true; canvas.setPointerCapture(event.pointerId); pen.beginPath(); pen.moveTo(...at(event)); });
      canvas.addEventListener("pointermove", (event) => { if (down) { pen.lineTo(...at(event)); pen.stroke(); } });
      canvas.addEventListener("pointerup", () => { down = false; say(canvas.toDataURL("image/png")); });
      box.querySelector("button").addEventListener("click", () => { pen.clearRect(0, 0, canvas.width, canvas.height); say(""); });
    }
  };
  document.addEventListener("htmx:after:swap", drawing);
  document.addEventListener("DOMContentLoaded", drawing);

  // One of several buttons can be taken back where no answer is needed, and what is
  // sensitive is looked at while its button is pressed in.
  document.addEventListener("click", (event) => {
    const clear = event.target.closest?.("[data-clear]"), reveal = event.target.closest?.("[data-reveal]");
    if (clear) {
      const picked = clear.closest("fieldset").querySelector("input[type=radio]:checked");
      if (!picked) return;
      picked.checked = false;
      picked.focus();
      for (const kind of ["input", "change"]) picked.dispatchEvent(new Event(kind, { bubbles: true }));
    } else if (reveal) {
      const shown = reveal.getAttribute("aria-pressed") !== "true";
      reveal.setAttribute("aria-pressed", String(shown));
      document.getElementById(reveal.dataset.reveal)?.classList.toggle("looked-at", shown);
    }
  });
})();
