// Pictures chosen or dropped: sent one after the other, then brought in together.
export function startDrop() {
  const zone = document.getElementById("drop");
  const input = zone.querySelector("input[type=file]");
  const form = document.getElementById("dropped");
  const says = zone.querySelector("[role=status]");
  input.addEventListener("change", () => send([...input.files], form, says));
  if (input.files.length) send([...input.files], form, says); // chosen before this was listening
  for (const type of ["dragenter", "dragover"]) {
    zone.addEventListener(type, (event) => {
      event.preventDefault();
      zone.classList.add("over");
    });
  }
  zone.addEventListener("dragleave", () => zone.classList.remove("over"));
  zone.addEventListener("drop", (event) => {
    event.preventDefault();
    zone.classList.remove("over");
    send([...event.dataTransfer.files], form, says);
  });
}

async function send(files, form, says) {
  if (!files.length) return;
  const batch = form.elements.batch.value;
  const refused = [];
  let sent = 0;
  for (const [index, file] of files.entries()) {
    says.textContent = `Sending ${index + 1} of ${files.length}: ${file.name}`;
    const problem = await sendOne(file, batch);
    if (problem) refused.push(problem);
    else sent += 1;
  }
  if (!sent) {
    says.textContent = refused.slice(0, 3).join(" ") || "None of them came. Try again.";
    return;
  }
  says.textContent = refused.length ? `${sent} sent. ${refused.slice(0, 3).join(" ")}` : `${sent} sent.`;
  form.requestSubmit();
}

async function sendOne(file, batch) {
  const query = new URLSearchParams({ batch, name: file.name });
  try {
    const answer = await fetch(`/log/pictures/drop?${query}`, { method: "POST", body: file });
    if (answer.ok) return "";
    const said = await answer.json().catch(() => ({}));
    return said.error ?? `${file.name} has more bytes than are taken.`;
  } catch {
    return `${file.name} could not be sent; perhaps it has changed or gone.`;
  }
}
