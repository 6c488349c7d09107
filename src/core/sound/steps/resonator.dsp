// A string that what comes in sets ringing: a tuned delay with a soft filter in its loop (Karplus & Strong, "Digital synthesis of plucked-string and drum timbres", CMJ 1983).
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
pitch = hslider("pitch", 1, -1000000, 1000000, 0.001);
cents = hslider("cents", 1, -1000000, 1000000, 0.001);
decay_s = hslider("decay_s", 1, -1000000, 1000000, 0.001);
damp_hz = hslider("damp_hz", 1, -1000000, 1000000, 0.001);
mix = hslider("mix", 1, -1000000, 1000000, 0.001);
hz = 440 * 2 ^ ((pitch + cents / 100 - 69) / 12);
// What the loop's filter and the way back are late by belongs to the period.
pole = exp(0 - 2 * ma.PI * min(damp_hz, 0.45 * ma.SR) / ma.SR);
late = pole / (1 - pole);
loss = 0.001 ^ (1 / (hz * decay_s));
damp = *(1 - pole) : + ~ *(pole);
string = (+ : de.fdelay4(16384, max(2, ma.SR / hz - 1 - late))) ~ (damp : *(loss));
process(l, r) = string(l) * 0.3, string(r) * 0.3 : \(a, b).(l * (1 - mix) + a * mix, r * (1 - mix) + b * mix);
