// compressors.lib, co.compressor_stereo: feed-forward, peak follower in the gain (J. O. Smith, after U. Zölzer, "DAFX").
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
threshold = hslider("threshold", 1, -1000000, 1000000, 0.001);
ratio = hslider("ratio", 1, -1000000, 1000000, 0.001);
attack = hslider("attack_ms", 1, -1000000, 1000000, 0.001) / 1000;
release = hslider("release_ms", 1, -1000000, 1000000, 0.001) / 1000;
makeup = hslider("makeup", 1, -1000000, 1000000, 0.001) : ba.db2linear;
process = co.compressor_stereo(ratio, threshold, attack, release) : *(makeup), *(makeup);
