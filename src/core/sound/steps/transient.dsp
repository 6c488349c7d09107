// How much louder strokes and what follows them become, by how far a quick and a slow measure of the level are apart: of all of it or of a band.
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
attack = hslider("attack", 1, -1000000, 1000000, 0.001);
body = hslider("body", 1, -1000000, 1000000, 0.001);
low_hz = hslider("low_hz", 1, -1000000, 1000000, 0.001);
high_hz = hslider("high_hz", 1, -1000000, 1000000, 0.001);
quick = an.amp_follower_ar(0.0005, 0.03);
slow = an.amp_follower_ar(0.025, 0.03);
long = an.amp_follower_ar(0.0005, 0.4);
gain(x) = ba.db2linear(attack * onset + body * tail)
with {
  onset = max(0, quick(x) - slow(x)) / max(quick(x), 0.00001);
  tail = max(0, long(x) - quick(x)) / max(long(x), 0.00001);
};
band(l, r) = l * g, r * g with { g = gain(max(abs(l), abs(r))); };
// Only between two edges, the rest untouched: flat together (Linkwitz-Riley of the fourth order). Edges stay below half the rate, where filters would not hold.
most = 0.4 * ma.SR;
lower = min(low_hz, 0.5 * most);
split = fi.crossover3LR4(lower, min(most, max(high_hz, lower * 1.5)));
process(l, r) = (l : split), (r : split) : \(a, b, c, d, e, f).(band(b, e) : \(m, n).(a + m + c, d + n + f));
