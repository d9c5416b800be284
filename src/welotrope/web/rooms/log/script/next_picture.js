// The next picture: its page and its pixels are fetched and unpacked meanwhile, so that it is there when it is asked for.
export function prepareNext(review, start) {
  const link = review.querySelector("a[data-key=n]");
  if (!link) return;
  const made = fetched(link.href);
  link.addEventListener("click", (event) => {
    if (event.ctrlKey || event.metaKey || event.shiftKey) return;
    event.preventDefault();
    show(link.href, made, start);
  });
}

async function fetched(address) {
  const answer = await fetch(address);
  if (!answer.ok) throw new Error(`status ${answer.status}`);
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  const review = page.getElementById("review");
  if (!review) throw new Error("no picture in it");
  const full = review.dataset.full ? loaded(review.dataset.full) : null;
  const previews = [loaded(review.dataset.preview).decode(), full?.decode()];
  await Promise.allSettled(previews);
  return { title: page.title, review, map: page.getElementById("map-data"), full };
}

export function loaded(address) {
  const image = new Image();
  image.src = address;
  return image;
}

async function show(address, made, start) {
  try {
    const { title, review, map, full } = await made;
    document.getElementById("review").replaceWith(document.adoptNode(review));
    document.getElementById("map-data").replaceWith(document.adoptNode(map));
    document.title = title;
    history.pushState({}, "", address);
    window.htmx?.process(review);
    start(review, full);
  } catch {
    location.assign(address); // whatever was in the way, the server knows
  }
}

addEventListener("popstate", () => document.getElementById("review") && location.reload());
