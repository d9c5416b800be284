// A scene that moves: frames are fetched for the moment and the ring as they are, two at a time, the next when one is there.
const LANES = 2;

export async function runScene(frames, trace, state, index, view, paint) {
  let latest = -1;
  const next = async () => {
    const seconds = state.running ? Math.min(trace.seconds(), 60) : 0;
    const picture = await frames.once(`i=${index()}&t=${seconds.toFixed(3)}${view()}`);
    // Of two on their way the later moment may come first: the other is past by then.
    if (seconds >= latest) paint(picture);
    latest = Math.max(latest, seconds);
    picture.close();
  };
  const lane = async () => {
    while (!frames.leaving.signal.aborted && !state.sent) await next();
  };
  await next();
  if (!state.running) await new Promise((go) => { state.go = go; });
  await Promise.all(Array.from({ length: LANES }, lane));
}
