// phaflangers.lib, pf.phaser2_stereo: second-order all-passes whose notches move (J. O. Smith, "An all-pass approach to digital phasing and flanging", ICMC 1984).
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
low_hz = hslider("low_hz", 1, -1000000, 1000000, 0.001);
high_hz = hslider("high_hz", 1, -1000000, 1000000, 0.001);
rate = hslider("rate", 1, -1000000, 1000000, 0.001);
feedback = hslider("feedback", 1, -1000000, 1000000, 0.001);
depth = hslider("depth", 1, -1000000, 1000000, 0.001);
process(l, r) = pf.phaser2_stereo(4, 600, low_hz, 1.5, max(high_hz, low_hz * 1.2), rate, depth, feedback, 0, l, r);
