// The rooms' links carry ring and aim on when a part of the page changed the address by itself.
export const AIM = ["lines", "detail", "light", "place", "moving", "tripod", "view"];
const CARRIED = ["at", "stop", "subject", ...AIM];

export function startCarry() {
  document.addEventListener("htmx:pushedIntoHistory", () => {
    const pairs = [...new URLSearchParams(location.search)].filter(([name]) => CARRIED.includes(name));
    const query = new URLSearchParams(pairs).toString();
    for (const link of document.querySelectorAll("[data-room]")) link.href = `${new URL(link.href).pathname}?${query}`;
    for (const field of document.querySelectorAll('header input[name="back"]')) field.value = location.pathname + location.search;
  });
}
