// A loudspeaker in its box, as a microphone close by hears it: little below its resonance and a bump there, a presence with the dip of its cone above it, next to nothing higher up.
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
low_hz = hslider("low_hz", 1, -1000000, 1000000, 0.001);
bump = hslider("bump", 1, -1000000, 1000000, 0.001);
presence_hz = hslider("presence_hz", 1, -1000000, 1000000, 0.001) : min(0.3 * ma.SR);
presence = hslider("presence", 1, -1000000, 1000000, 0.001);
dip = hslider("dip", 1, -1000000, 1000000, 0.001);
high_hz = hslider("high_hz", 1, -1000000, 1000000, 0.001) : min(0.45 * ma.SR);
mix = hslider("mix", 1, -1000000, 1000000, 0.001);
box = fi.highpass(2, low_hz) : fi.peak_eq_cq(bump, low_hz * 1.2, 1.5) : fi.peak_eq_cq(presence, presence_hz, 1) : fi.peak_eq_cq(0 - dip, presence_hz * 1.45, 4) : fi.lowpass(4, high_hz);
process(l, r) = box(l), box(r) : \(a, b).(l * (1 - mix) + a * mix, r * (1 - mix) + b * mix);
