// Narrows a list while its filter field is typed in; Enter goes to the first entry left.
export function startJumpFilter() {
  document.addEventListener("input", (event) => {
    if (!event.target.matches("[data-filter]")) return;
    const wanted = event.target.value.trim().toLowerCase();
    for (const item of entries(event.target)) item.hidden = !item.textContent.toLowerCase().includes(wanted);
  });
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Enter" || !event.target.matches("[data-filter]")) return;
    event.preventDefault();
    entries(event.target).find((item) => !item.hidden)?.querySelector("a, button")?.click();
  });
}

const entries = (field) => [...document.getElementById(field.dataset.filter).children];
