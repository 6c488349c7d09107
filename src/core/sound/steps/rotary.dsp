// A loudspeaker that turns: a horn for what lies above the split, a drum below it. What comes towards a microphone is higher and louder, what goes away lower and softer
// (the delay by which a source that turns is nearer and farther: J. O. Smith, S. Serafin, J. Abel & D. Berners, DAFx 2002); two microphones stand apart round it.
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
rate = hslider("rate", 1, -1000000, 1000000, 0.001);
drum = hslider("drum", 1, -1000000, 1000000, 0.001);
run_up_s = hslider("run_up_s", 1, -1000000, 1000000, 0.001);
split_hz = hslider("split_hz", 1, -1000000, 1000000, 0.001) : min(0.4 * ma.SR);
radius_m = hslider("radius_m", 1, -1000000, 1000000, 0.001);
beam = hslider("beam", 1, -1000000, 1000000, 0.001);
apart = hslider("apart", 1, -1000000, 1000000, 0.001);
mix = hslider("mix", 1, -1000000, 1000000, 0.001);
// It stands still at first where it was still, and turns at its speed from the first sample otherwise.
begun = 1 - 1';
speed = (rate : (\(x).((_ : \(y).(select2(begun, y + (x - y) * (1 - ba.tau2pole(run_up_s / 3)), x))) ~ _)));
turn(s) = (s / ma.SR : (+ : ma.frac) ~ _) * 2 * ma.PI;
depth = radius_m / 343 * ma.SR;
heard(phase, x) = x * (1 - beam * (0.5 - 0.5 * cos(phase))) : de.fdelay4(1024, 4 + depth * (1 - cos(phase)));
side(at, x) = x : fi.crossover2LR4(split_hz) : \(low, high).(heard(turn(speed * drum) + at, low) + heard(turn(speed) + at, high));
angle = apart * ma.PI / 2;
process(l, r) = (l + r) * 0.5 : (\(x).(side(0 - angle, x), side(angle, x))) : \(a, b).(l * (1 - mix) + a * mix, r * (1 - mix) + b * mix);
