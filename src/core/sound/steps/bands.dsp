// filters.lib, fi.crossover3LR4 (Linkwitz-Riley, fourth order: flat in sum); compressors.lib, co.peak_compression_gain_mono_db for what is above a threshold, and its mirror for
// what lies below another: brought up by as much as its ratio says, at most 24 dB, and not where there is next to nothing.
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
low_hz = hslider("low_hz", 200, -1000000, 1000000, 0.001);
high_hz = hslider("high_hz", 2500, -1000000, 1000000, 0.001);
threshold = hslider("threshold", 1, -1000000, 1000000, 0.001);
ratio = hslider("ratio", 1, -1000000, 1000000, 0.001);
under = hslider("under", 1, -1000000, 1000000, 0.001);
up_ratio = hslider("up_ratio", 1, -1000000, 1000000, 0.001);
attack_ms = hslider("attack_ms", 1, -1000000, 1000000, 0.001);
release_ms = hslider("release_ms", 1, -1000000, 1000000, 0.001);
low = hslider("low", 1, -1000000, 1000000, 0.001);
mid = hslider("mid", 1, -1000000, 1000000, 0.001);
high = hslider("high", 1, -1000000, 1000000, 0.001);
level(l, r) = max(abs(l), abs(r)) : an.amp_follower_ar(attack_ms * 0.001, release_ms * 0.001) : max(1e-6) : ba.linear2db;
// A sound fades below -70 dBFS: nothing is lifted there, so that noise beneath music stays there.
lift(db) = min(24, max(0, under - db) * (1 - 1 / max(1, up_ratio))) * min(1, max(0, (db + 80) / 10));
gain(db) = lift(db) - max(0, db - threshold) * (1 - 1 / max(1, ratio));
band(trim, l, r) = l * g, r * g with { g = ba.db2linear(gain(level(l, r)) + trim); };
// Edges stay below half the rate, where filters would not hold.
most = 0.4 * ma.SR;
split = fi.crossover3LR4(min(low_hz, 0.5 * most), min(most, max(high_hz, low_hz * 1.5)));
process(l, r) = (l : split), (r : split) : sum3 with { sum3(l1, l2, l3, r1, r2, r3) = band(low, l1, r1), band(mid, l2, r2), band(high, l3, r3) :> _, _; };
