// What time does to sound: fewer steps and samples, a wavering speed, hiss, lost highs.
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
bits = hslider("bits", 1, -1000000, 1000000, 0.001);
rate_hz = hslider("rate_hz", 1, -1000000, 1000000, 0.001);
wow = hslider("wow", 1, -1000000, 1000000, 0.001);
hiss = hslider("hiss", 1, -1000000, 1000000, 0.001);
high_hz = hslider("high_hz", 1, -1000000, 1000000, 0.001);
steps = 2 ^ (bits - 1);
fewer = *(steps) : +(0.5) : floor : /(steps);
hold = ba.sAndH(ba.pulse(max(1, ma.SR / rate_hz)));
// Cents as a moving delay: a sine of 0.9 Hz moves the pitch by its slope.
samples = 4 + wow * 0.000102 * ma.SR * (1 + os.osc(0.9));
waver = de.fdelay4(4096, samples);
one(n) = waver : hold : fewer : +(no.noise * hiss * n) : fi.lowpass(2, min(high_hz, 0.45 * ma.SR));
process(l, r) = one(1, l), one(-1, r);
