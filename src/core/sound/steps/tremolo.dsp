// A sine that takes the level down, on both sides at once or apart.
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
rate = hslider("rate", 1, -1000000, 1000000, 0.001);
timed = hslider("timed", 1, -1000000, 1000000, 0.001);
every = hslider("every", 1, -1000000, 1000000, 0.001);
depth = hslider("depth", 1, -1000000, 1000000, 0.001);
apart = hslider("apart", 1, -1000000, 1000000, 0.001);
hz = select2(timed > 0.5, rate, 1 / max(every, 0.02));
down(phase) = 1 - depth * (0.5 - 0.5 * os.oscp(hz, phase));
process(l, r) = l * down(0), r * down(apart * ma.PI);
