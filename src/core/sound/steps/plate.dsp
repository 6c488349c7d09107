// A plate: a ring of two halves, each an all-pass, a delay, a damping filter, an all-pass and a delay, after four all-passes that spread what comes in
// (J. Dattorro, "Effect design, part 1: reverberator and other filters", JAES 1997; his lengths are in samples at 29761 Hz and are kept in time here).
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
predelay_ms = hslider("predelay_ms", 1, -1000000, 1000000, 0.001);
decay_s = hslider("decay_s", 1, -1000000, 1000000, 0.001);
low_cut_hz = hslider("low_cut_hz", 1, -1000000, 1000000, 0.001);
damp_hz = hslider("damp_hz", 1, -1000000, 1000000, 0.001);
width = hslider("width", 1, -1000000, 1000000, 0.001);
mix = hslider("mix", 1, -1000000, 1000000, 0.001);
line(n) = de.delay(32768, int(n * ma.SR / 29761));
spread(n, a) = (+ <: line(n), *(a)) ~ *(0 - a) : mem, _ : +;
// Once round takes all its lines; it is turned down four times on the way.
around_s = (672 + 4453 + 1800 + 3720 + 908 + 4217 + 2656 + 3163) / 29761;
turn = 0.001 ^ (around_s / (4 * decay_s));
pole = exp(0 - 2 * ma.PI * min(damp_hz, 0.45 * ma.SR) / ma.SR);
damp = *(1 - pole) : + ~ *(pole);
half(first, way, second, x) = x : spread(first, -0.7) <: _, (line(way) : damp : *(turn) : spread(second, 0.5));
end(way) = line(way) : *(turn);
ring(back_l, back_r, x) = half(672, 4453, 1800, x + back_r), half(908, 4217, 2656, x + back_l)
  : \(a, b, c, d).(end(3720, b), end(3163, d), a, b, c, d);
left(a, b, c, d) = (c : line(266)) + (c : line(2974)) - (d : line(1913)) + (d : line(1996)) - (a : line(1990)) - (b : line(187)) - (b : line(1066));
right(a, b, c, d) = (a : line(353)) + (a : line(3627)) - (b : line(1228)) + (b : line(2673)) - (c : line(2111)) - (d : line(335)) - (d : line(121));
enter(l, r) = (l + r) * 0.5 : de.delay(65536, predelay_ms * 0.001 * ma.SR) : fi.highpass(1, low_cut_hz) : spread(142, 0.75) : spread(107, 0.75) : spread(379, 0.625) : spread(277, 0.625);
plate = enter : ring ~ si.bus(2) : \(e, f, a, b, c, d).(left(a, b, c, d) * 0.3, right(a, b, c, d) * 0.3);
wide(l, r) = (l + r) * 0.5, (l - r) * 0.5 * width : \(m, s).(m + s, m - s);
process(l, r) = (l, r : plate : wide) : \(a, b).(l * (1 - mix) + a * mix, r * (1 - mix) + b * mix);
