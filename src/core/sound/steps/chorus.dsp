// A delay that a sine moves, a quarter turn apart on both sides, with feedback: chorus, flanger and vibrato by its values.
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
delay_ms = hslider("delay_ms", 1, -1000000, 1000000, 0.001);
depth_ms = hslider("depth_ms", 1, -1000000, 1000000, 0.001);
rate = hslider("rate", 1, -1000000, 1000000, 0.001);
feedback = hslider("feedback", 1, -1000000, 1000000, 0.001);
mix = hslider("mix", 1, -1000000, 1000000, 0.001);
samples(phase) = (delay_ms + depth_ms * (0.5 + 0.5 * os.oscp(rate, phase))) * 0.001 * ma.SR : max(2);
line(phase) = (+ : de.fdelay4(16384, samples(phase))) ~ *(feedback);
process(l, r) = line(0, l), line(ma.PI / 2, r) : \(a, b).(l * (1 - mix) + a * mix, r * (1 - mix) + b * mix);
