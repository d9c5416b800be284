// A scene that moves: each frame is fetched for the moment and the ring as they are, the next when it is there.
export async function runScene(frames, trace, state, index, view, paint) {
  while (!frames.leaving.signal.aborted && !state.sent) {
    const seconds = state.running ? trace.seconds() : 0;
    const picture = await frames.once(`i=${index()}&t=${Math.min(seconds, 60).toFixed(3)}${view()}`);
    if (!picture) return;
    paint(picture);
    picture.close();
    if (!state.running) await new Promise((go) => { state.go = go; });
  }
}
