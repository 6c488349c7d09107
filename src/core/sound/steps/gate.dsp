// misceffects.lib, ef.gate_gain_mono: opens for what is loud enough, both sides by the louder one.
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
threshold = hslider("threshold", 1, -1000000, 1000000, 0.001);
attack_ms = hslider("attack_ms", 1, -1000000, 1000000, 0.001);
hold_ms = hslider("hold_ms", 1, -1000000, 1000000, 0.001);
release_ms = hslider("release_ms", 1, -1000000, 1000000, 0.001);
range = hslider("range", 1, -1000000, 1000000, 0.001);
closed = ba.db2linear(0 - range);
process(l, r) = l * g, r * g with { g = ef.gate_gain_mono(threshold, attack_ms * 0.001, hold_ms * 0.001, release_ms * 0.001, abs(l) + abs(r)) * (1 - closed) + closed; };
