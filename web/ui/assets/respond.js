// What HTML and htmx cannot do for a form in public: keep an appointment with the
// clock, go on when the connection comes back, and remember on the device.
(() => {
  document.documentElement.classList.add("scripted");
  document.addEventListener("htmx:before:request", () => document.documentElement.classList.add("changed"), { once: true });
  const fill = () => document.getElementById("fill");

  let timer;
  const appoint = () => {
    clearTimeout(timer);
    const form = fill(), wait = Number(document.getElementById("clock")?.dataset.wait);
    if (form && wait > 0) timer = setTimeout(() => htmx.trigger(form, "clock"), wait);
  };

  // A live change that fails is said, and asked for again with growing waits until
  // it comes through; whatever is changed meanwhile asks by itself.
  const patience = 15000;
  let again, wait = 0, limit;
  const trouble = (why) => {
    const note = document.getElementById("trouble");
    if (!note) return;
    note.hidden = !why;
    note.textContent = why ? note.dataset[why] : "";
  };
  const retry = () => {
    clearTimeout(again);
    wait = Math.min(wait ? wait * 2 : 1500, 30000);
    again = setTimeout(ask, wait);
  };
  const ask = () => { if (rows.doing) rows.go(); else if (fill()) htmx.trigger(fill(), "clock"); };
  const settled = () => { clearTimeout(again); wait = 0; trouble(null); };
  const isLive = (ctx) => ctx?.sourceElement === fill() || ctx?.sourceElement?.form === fill() && fill() !== null;
  document.addEventListener("htmx:before:request", (event) => {
    if (!isLive(event.detail?.ctx)) return;
    clearTimeout(limit);
    const { ctx } = event.detail;
    limit = setTimeout(() => { ctx.late = true; ctx.request.abort?.(); trouble("refused"); retry(); }, patience);
  });
  // Only what says that it is the application's answer is put into the page; a page
  // of something in between is not.
  document.addEventListener("htmx:before:response", (event) => {
    const { ctx } = event.detail ?? {};
    if (!isLive(ctx)) return;
    clearTimeout(limit);
    const { status, headers } = ctx.response;
    if (headers.get("Lazo-Closed")) {
      event.preventDefault();
      goOn("update");
    } else if (status !== 200 || !headers.get("Lazo-Live")) {
      event.preventDefault();
      if (status === 409) trouble("stale");
      else if (status === 413 || status === 400) trouble("refused");
      else { trouble("refused"); retry(); }
    } else settled();
  });
  document.addEventListener("htmx:error", (event) => {
    if (!isLive(event.detail?.ctx) || event.detail.ctx.late) return;
    clearTimeout(limit);
    trouble("offline");
    retry();
  });
  addEventListener("online", () => { if (!document.getElementById("trouble")?.hidden) { wait = 0; ask(); } });
  document.addEventListener("htmx:after:swap", appoint);

  let typed = false; // something that was not sent since

  // goOn posts the whole form as one of its buttons would.
  function goOn(what) {
    const field = document.createElement("input");
    Object.assign(field, { type: "hidden", name: "_do", value: what });
    fill().append(field);
    typed = false; // it goes along
    fill().submit();
  }

  // What is sent waits for the connection, and is tried again like a live change: a page that
  // a browser can't fetch would take the place of this one, with all that was typed.
  const reach = {
    wanted: null, // the button that waits, or true for none
    timer: 0, wait: 0,
    async there() {
      const limit = AbortSignal.timeout(patience);
      try { return (await fetch("/healthz", { cache: "no-store", signal: limit })).ok; } catch { return false; }
    },
    async go() {
      clearTimeout(reach.timer);
      if (await reach.there()) {
        const button = reach.wanted;
        reach.wanted = null;
        reach.wait = 0;
        trouble(null);
        fill().dataset.reached = "yes";
        fill().requestSubmit(button === true || !button?.isConnected ? undefined : button);
        delete fill().dataset.reached;
        return;
      }
      trouble("waiting");
      reach.wait = Math.min(reach.wait ? reach.wait * 2 : 1500, 30000);
      reach.timer = setTimeout(reach.go, reach.wait);
    },
  };
  document.addEventListener("submit", (event) => {
    if (event.target !== fill() || fill().dataset.reached) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    const first = !reach.wanted;
    reach.wanted = event.submitter ?? true;
    if (first) reach.go();
  }, true);
  addEventListener("online", () => { if (reach.wanted) { reach.wait = 0; reach.go(); } });

  // Rows come and go in place. While one does, the rows can't be touched, since their
  // numbers are about to change, and whatever else is asked waits for it.
  const rows = {
    doing: null, // what a button asked for
    waiting: false, // whether a change asked meanwhile
    submitter: null, // or a button of the page
    inert(on) { for (const box of document.querySelectorAll("[id^=rows-]")) box.inert = on; },
    go() {
      const form = fill();
      rows.inert(true);
      htmx.ajax("POST", form.getAttribute("hx-post"), { source: form, swap: "none", values: { _do: rows.doing } });
    },
    done() {
      rows.doing = null;
      rows.inert(false);
      if (rows.submitter) fill().requestSubmit(rows.submitter);
      else if (rows.waiting) ask();
      rows.submitter = null;
      rows.waiting = false;
    },
  };
  const isRows = (ctx) => Boolean(rows.doing && ctx?.request?.body?.get?.("_do") === rows.doing);
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("button[data-rows]");
    if (!button || button.form !== fill() || !fill().getAttribute("hx-post")) return;
    event.preventDefault();
    if (rows.doing) return;
    rows.doing = button.value;
    rows.go();
  });
  document.addEventListener("htmx:config:request", (event) => {
    const ctx = event.detail?.ctx;
    if (!rows.doing || isRows(ctx) || !isLive(ctx)) return;
    event.preventDefault();
    rows.waiting = true;
  });
  document.addEventListener("htmx:finally:request", (event) => {
    if (isRows(event.detail?.ctx) && event.detail.ctx.status === "swapped") rows.done();
  });
  document.addEventListener("submit", (event) => {
    if (!rows.doing || event.target !== fill()) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    rows.submitter = event.submitter;
  }, true);

  // That a filling was begun is counted once; nothing tells whose it is.
  document.addEventListener("input", (event) => {
    const form = event.target.form, far = form?.elements._far;
    if (!event.isTrusted || !form || form !== fill() || !far || far.value || !form.elements._page) return;
    far.value = form.elements._page.value;
    const body = new URLSearchParams({ _token: form.elements._token.value, _page: far.value });
    fetch(form.action + "/begun", { method: "POST", body }).catch(() => { /* it is not counted */ });
  });

  // Inside another page: tell it how high the form is.
  if (parent !== self) addEventListener("DOMContentLoaded", () => {
    new ResizeObserver(() => parent.postMessage({ lazoHeight: document.documentElement.getBoundingClientRect().height }, "*")).observe(document.documentElement);
  });

  // What was answered survives a reload, where the form allows it: kept on this
  // device alone, never of sensitive items, and forgotten once it is sent. It is the
  // server that puts it back, as if it had been typed.
  const memory = {
    // A browser may keep nothing at all; then nothing is remembered.
    read(address) { try { return JSON.parse(localStorage.getItem("lazo:" + address)); } catch { return null; } },
    write(address, kept) { try { if (kept) localStorage.setItem("lazo:" + address, JSON.stringify(kept)); else localStorage.removeItem("lazo:" + address); } catch { /* not kept */ } },
    fields(form) {
      const out = [];
      for (const f of form.elements) {
        if (!f.name || f.name.startsWith("_") || f.name.startsWith("auto.") || f.type === "file" || f.tagName === "BUTTON" || f.matches("[data-sensitive]") || f.closest("[data-sensitive]")) continue;
        if ((f.type === "checkbox" || f.type === "radio") && !f.checked) continue;
        const own = f.closest(".unit")?.querySelector("[data-own]");
        if (own && !own.value) continue; // it comes by itself
        if (f.tagName === "SELECT") for (const o of f.selectedOptions) out.push([f.name, o.value]);
        else out.push([f.name, f.value]);
      }
      return out;
    },
  };
  const remembering = () => document.querySelector("form[data-remember]");
  const keep = () => { const form = remembering(); if (form) memory.write(form.dataset.address, memory.fields(form)); };
  document.addEventListener("input", (event) => { if (event.isTrusted && event.target.form === remembering()) keep(); });
  document.addEventListener("htmx:after:swap", (event) => { if (event.detail?.ctx?.asked > 0) keep(); });
  const restore = (form) => {
    const kept = memory.read(form.dataset.address);
    if (!Array.isArray(kept) || !kept.length) return;
    const body = new URLSearchParams(kept);
    for (const name of ["_token", "_page"]) body.set(name, form.elements[name].value);
    fetch(form.getAttribute("hx-post"), { method: "POST", body }).then(async (answer) => {
      if (!answer.ok || !answer.headers.get("Lazo-Live")) return;
      const text = await answer.text();
      await htmx.swap({ text, sourceElement: form, swap: "none", target: form, request: {}, hx: {} });
      const again = document.getElementById("again"); // somebody else may sit here now
      if (again) again.hidden = false;
      // Answers of other pages travel along.
      const here = new Set([...form.elements].map((f) => f.name)), elsewhere = document.getElementById("elsewhere");
      for (const [name, value] of kept) {
        if (here.has(name)) continue;
        const field = document.createElement("input");
        Object.assign(field, { type: "hidden", name, value });
        elsewhere.append(field);
      }
    }).catch(() => { /* without an answer the form is as it came */ });
  };

  document.addEventListener("click", (event) => {
    if (!event.target.closest?.("#afresh")) return;
    memory.write(fill().dataset.address, null);
    typed = false;
    location.replace(location.pathname + location.search);
  });

  // Whoever comes back to a form that this browser has sent is told so by the server.
  const sent = {
    of(address) { try { return sessionStorage.getItem("lazo-sent:" + address); } catch { return null; } },
    note(address, filling) { try { sessionStorage.setItem("lazo-sent:" + address, filling); } catch { /* not kept */ } },
    forget(address) { try { sessionStorage.removeItem("lazo-sent:" + address); } catch { /* not kept */ } },
  };
  addEventListener("pageshow", (event) => {
    const form = fill();
    if (!form) return;
    const came = performance.getEntriesByType("navigation")[0]?.type, back = event.persisted || came === "back_forward";
    const field = form.elements._sent, before = sent.of(form.dataset.address);
    if (field && before && back) field.value = before;
    // On a shared computer the next one who goes back does not see what is sensitive.
    if (before && back) for (const f of form.elements) if (f.matches("[data-sensitive]") || f.closest("[data-sensitive]")) f.value = "";
    else if (!back && came === "navigate" && !document.getElementById("notice") && !field?.value && form.elements._page && document.referrer.indexOf("/received/") >= 0) sent.forget(form.dataset.address);
    delete form.dataset.sent;
  });

  addEventListener("DOMContentLoaded", () => {
    const { received, filling } = document.body.dataset;
    if (received) { memory.write(received, null); if (filling) sent.note(received, filling); }
    appoint();
    const form = remembering();
    if (form && !document.getElementById("summary")?.querySelector("li") && form.elements._page && !document.getElementById("elsewhere")?.children.length) restore(form);
    (document.querySelector("#summary:not([hidden])") ?? document.getElementById("notice") ?? document.querySelector("[data-further] h2[tabindex], [data-further] h1"))?.focus();
    document.querySelector("[data-print]")?.addEventListener("click", () => print());
  });
  // A line of the summary leads to its question, with label and message in sight.
  document.addEventListener("click", (event) => {
    const link = event.target.closest?.("#summary a");
    const unit = link && document.getElementById(link.hash.slice(1));
    if (!unit) return;
    event.preventDefault();
    unit.querySelector("input:not([type=hidden]), select, textarea, button")?.focus({ preventScroll: true });
    unit.scrollIntoView({ block: "start" });
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
    typed = false;
    const button = event.submitter?.closest?.("#steps, .steps") ? event.submitter : null, words = button?.textContent;
    if (button && event.target.dataset.sending) setTimeout(() => { button.textContent = event.target.dataset.sending; button.setAttribute("aria-busy", "true"); });
    setTimeout(() => {
      delete event.target.dataset.sent;
      if (button) { button.textContent = words; button.removeAttribute("aria-busy"); }
    }, 4000);
  });
  // Whoever leaves with what was typed and not sent is asked, unless this device keeps it.
  document.addEventListener("input", (event) => { typed ||= event.isTrusted && event.target.form === fill(); });
  addEventListener("beforeunload", (event) => { if (typed && fill() && !remembering()) event.preventDefault(); });
  // A file is sent as soon as it is chosen, by itself, so that the live changes
  // stay small and it is there when the page comes back with a problem.
  document.addEventListener("change", (event) => {
    const input = event.target;
    if (!input.matches?.("[data-file]") || input.form?.id !== "fill" || !input.files.length) return;
    htmx.ajax("POST", input.form.getAttribute("hx-post"), { source: input, swap: "none" });
  });
})();
