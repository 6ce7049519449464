// For pages that show a form inside them: the frame grows with the form, and
// parameters of the page's own address go along where the form's makers want it.
(() => {
  for (const frame of document.querySelectorAll("iframe[data-lazo]")) {
    const address = new URL(frame.dataset.lazo), own = new URLSearchParams(location.search);
    for (const name of (frame.dataset.pass ?? "").split(" ").filter(Boolean)) for (const value of own.getAll(name)) address.searchParams.append(name, value);
    frame.src = address.href;
    addEventListener("message", (event) => {
      if (event.source === frame.contentWindow && event.origin === address.origin && Number(event.data?.lazoHeight) > 0) frame.style.height = Math.ceil(event.data.lazoHeight) + "px";
    });
  }
})();
