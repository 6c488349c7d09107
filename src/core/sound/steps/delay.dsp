// Two delay lines that feed back through a low and a high cut, each into itself or, as ping-pong, into the other.
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
time = hslider("time", 1, -1000000, 1000000, 0.001);
feedback = hslider("feedback", 1, -1000000, 1000000, 0.001);
low_hz = hslider("low_hz", 1, -1000000, 1000000, 0.001);
high_hz = hslider("high_hz", 1, -1000000, 1000000, 0.001);
ping_pong = hslider("ping_pong", 1, -1000000, 1000000, 0.001);
mix = hslider("mix", 1, -1000000, 1000000, 0.001);
samples = min(time, 4.0) * ma.SR : max(1);
cuts = fi.highpass(1, low_hz) : fi.lowpass(1, min(high_hz, 0.45 * ma.SR));
swap(a, b) = a * (1 - ping_pong) + b * ping_pong, b * (1 - ping_pong) + a * ping_pong;
line = de.fdelay(1048576, samples) : cuts;
net = (ro.interleave(2, 2) : par(i, 2, (+ : line))) ~ (swap : par(i, 2, *(feedback)));
// Ping-pong begins on the left with both sides together.
enter(l, r) = l * (1 - ping_pong) + 0.5 * (l + r) * ping_pong, r * (1 - ping_pong);
process(l, r) = enter(l, r) : net : \(a, b).(l * (1 - mix) + a * mix, r * (1 - mix) + b * mix);
