// Filters by trapezoidal integration (filters.lib, fi.svf: A. Simper, "Linear trapezoidal integrated state variable filter", 2011), which may be moved
// while they sound.
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
low_cut = hslider("low_cut", 1, -1000000, 1000000, 0.001);
low_hz = hslider("low_hz", 1, -1000000, 1000000, 0.001);
low = hslider("low", 1, -1000000, 1000000, 0.001);
mid_hz = hslider("mid_hz", 1, -1000000, 1000000, 0.001);
mid = hslider("mid", 1, -1000000, 1000000, 0.001);
mid_q = hslider("mid_q", 1, -1000000, 1000000, 0.001);
top_hz = hslider("top_hz", 1, -1000000, 1000000, 0.001);
top = hslider("top", 1, -1000000, 1000000, 0.001);
top_q = hslider("top_q", 1, -1000000, 1000000, 0.001);
high_hz = hslider("high_hz", 1, -1000000, 1000000, 0.001);
high = hslider("high", 1, -1000000, 1000000, 0.001);
high_cut = hslider("high_cut", 1, -1000000, 1000000, 0.001);
below(f) = min(f, 0.45 * ma.SR);
cut_low(x) = select2(low_cut > 10.5, x, fi.svf.hp(low_cut, 0.70711, x));
cut_high(x) = select2(high_cut < 21500, x, fi.svf.lp(below(high_cut), 0.70711, x));
side = cut_low : fi.svf.ls(low_hz, 0.70711, low) : fi.svf.bell(below(mid_hz), mid_q, mid) : fi.svf.bell(below(top_hz), top_q, top)
    : fi.svf.hs(below(high_hz), 0.70711, high) : cut_high;
process = side, side;
