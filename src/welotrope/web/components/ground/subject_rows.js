// Adds empty rows to the subject list of a plan; without script the page offers two spare rows anyway.
export function startRows() {
  showButtons();
  document.addEventListener("htmx:load", showButtons);
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-add-row]");
    if (!button) return;
    const list = document.getElementById(button.dataset.addRow);
    const row = list.lastElementChild.cloneNode(true);
    for (const field of row.querySelectorAll("input")) field.value = "";
    for (const message of row.querySelectorAll(".error, .hint")) message.remove();
    list.append(row);
    row.querySelector("input").focus();
  });
}

// Without script the button could do nothing, so the page brings it hidden.
function showButtons() {
  for (const button of document.querySelectorAll("[data-add-row]")) button.hidden = false;
}
