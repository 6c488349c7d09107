// reverbs.lib, re.zita_rev1_stereo: an 8×8 feedback delay network with all-pass combs (F. Adriaensen's design).
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
predelay = hslider("predelay_ms", 1, -1000000, 1000000, 0.001);
decay = hslider("decay_s", 1, -1000000, 1000000, 0.001);
low = hslider("low", 1, -1000000, 1000000, 0.001);
low_hz = hslider("low_hz", 1, -1000000, 1000000, 0.001);
damp_hz = hslider("damp_hz", 1, -1000000, 1000000, 0.001) : min(0.45 * ma.SR);
mix = hslider("mix", 1, -1000000, 1000000, 0.001);
room = re.zita_rev1_stereo(predelay, low_hz, damp_hz, decay * low, decay, 192000);
process(l, r) = room(l, r) : \(a, b).(l * (1 - mix) + a * mix, r * (1 - mix) + b * mix);
