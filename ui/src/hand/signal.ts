/** A short high tone for right, two low ones for wrong; the device shakes where it can. */
export function signal(right: boolean) {
  navigator.vibrate?.(right ? 40 : [120, 60, 120])
  document.documentElement.dataset.signal = right ? 'right' : 'wrong'
  try {
    const audio = new AudioContext()
    const tone = (hertz: number, from: number, length: number) => {
      const o = audio.createOscillator()
      const g = audio.createGain()
      o.frequency.value = hertz
      o.type = right ? 'sine' : 'square'
      g.gain.value = 0.15
      o.connect(g).connect(audio.destination)
      o.start(audio.currentTime + from)
      o.stop(audio.currentTime + from + length)
    }
    if (right) tone(1320, 0, 0.09)
    else [0, 0.22].forEach((t) => tone(220, t, 0.16))
    setTimeout(() => void audio.close(), 700)
  } catch {
    // A device without sound still shows and shakes.
  }
}
