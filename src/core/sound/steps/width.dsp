// Middle and sides: how far apart, from which frequency on, turned, one side later than the other.
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
width = hslider("width", 1, -1000000, 1000000, 0.001);
mono_hz = hslider("mono_hz", 1, -1000000, 1000000, 0.001);
later_ms = hslider("later_ms", 1, -1000000, 1000000, 0.001);
turn = hslider("turn", 1, -1000000, 1000000, 0.001);
sides(l, r) = (l - r) * 0.5 * width : fi.highpass(2, mono_hz);
place(m, s) = m + s, m - s;
later(ms) = de.fdelay(8192, max(0, ms) * 0.001 * ma.SR);
angle = turn * ma.PI / 4;
rotate(l, r) = l * cos(angle) - r * sin(angle), l * sin(angle) + r * cos(angle);
process(l, r) = (l + r) * 0.5, sides(l, r) : place : rotate : later(0 - later_ms), later(later_ms);
