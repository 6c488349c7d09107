// A delay that a sine moves, a quarter turn apart on both sides, with feedback: chorus, flanger and vibrato by its values.
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
delay_ms = hslider("delay_ms", 1, -1000000, 1000000, 0.001);
depth_ms = hslider("depth_ms", 1, -1000000, 1000000, 0.001);
rate = hslider("rate", 1, -1000000, 1000000, 0.001);
feedback = hslider("feedback", 1, -1000000, 1000000, 0.001);
mix = hslider("mix", 1, -1000000, 1000000, 0.001);
// The phase is a whole number that wraps around: a third of the time of one that must be folded back at each sample.
phase = +(int(rate / ma.SR * 4294967296.0)) ~ _;
turns(quarters) = rdtable(65536, os.sinwaveform(65536), ((phase >> 16) + 16384 * quarters) & 65535);
samples(quarters) = (delay_ms + depth_ms * (0.5 + 0.5 * turns(quarters))) * 0.001 * ma.SR : max(2);
line(quarters) = (+ : de.fdelay4(16384, samples(quarters))) ~ *(feedback);
process(l, r) = line(0, l), line(1, r) : \(a, b).(l * (1 - mix) + a * mix, r * (1 - mix) + b * mix);
