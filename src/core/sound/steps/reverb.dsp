// reverbs.lib, re.zita_rev1_stereo: an 8×8 feedback delay network with all-pass combs (F. Adriaensen's design), behind the first reflections of a room of some size.
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
predelay = hslider("predelay_ms", 1, -1000000, 1000000, 0.001);
decay = hslider("decay_s", 1, -1000000, 1000000, 0.001);
low = hslider("low", 1, -1000000, 1000000, 0.001);
low_hz = hslider("low_hz", 1, -1000000, 1000000, 0.001);
damp_hz = hslider("damp_hz", 1, -1000000, 1000000, 0.001) : min(0.45 * ma.SR);
early = hslider("early", 1, -1000000, 1000000, 0.001);
size_m = hslider("size_m", 1, -1000000, 1000000, 0.001);
low_cut_hz = hslider("low_cut_hz", 1, -1000000, 1000000, 0.001);
high_cut_hz = hslider("high_cut_hz", 1, -1000000, 1000000, 0.001) : min(0.45 * ma.SR);
width = hslider("width", 1, -1000000, 1000000, 0.001);
freeze = hslider("freeze", 1, -1000000, 1000000, 0.001);
mix = hslider("mix", 1, -1000000, 1000000, 0.001);
// Held, nothing comes in and nothing dies away.
rings(t) = select2(freeze > 0.5, t, 100000);
room(l, r) = l * (1 - freeze), r * (1 - freeze) : re.zita_rev1_stereo(0, low_hz, damp_hz, rings(decay * low), rings(decay), 192000);
// The first walls: six ways to each side, in metres, once there and back; each is softer by its length.
wall(x, way) = x : de.delay(32768, int(way * size_m / 343 * ma.SR)) : /(way);
walls(l, r) = (wall(l, 0.62) + wall(r, 1.01) + wall(l, 1.27) - wall(r, 1.63) + wall(l, 1.94) - wall(r, 2.31)) * early * 0.5,
  (wall(r, 0.71) + wall(l, 0.93) + wall(r, 1.38) - wall(l, 1.55) + wall(r, 2.08) - wall(l, 2.23)) * early * 0.5;
wait = de.delay(65536, int(predelay * 0.001 * ma.SR));
cuts = fi.highpass(1, low_cut_hz) : fi.lowpass(1, high_cut_hz);
wide(l, r) = (l + r) * 0.5, (l - r) * 0.5 * width : \(m, s).(m + s, m - s);
wet(l, r) = (l : wait), (r : wait) <: walls, room :> cuts, cuts : wide;
process(l, r) = wet(l, r) : \(a, b).(l * (1 - mix) + a * mix, r * (1 - mix) + b * mix);
