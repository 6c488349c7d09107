// Two filters in a row by trapezoidal integration (filters.lib, fi.svf).
// Ranges stand in the table of the .cpp beside this file; those given here only say that there is one.
import("stdfaust.lib");
kind = hslider("kind", 1, -1000000, 1000000, 0.001);
cutoff = hslider("cutoff", 1, -1000000, 1000000, 0.001) : min(0.45 * ma.SR);
resonance = hslider("resonance", 1, -1000000, 1000000, 0.001);
steep = hslider("steep", 1, -1000000, 1000000, 0.001);
q = 0.70711 * pow(20, resonance);
one(x) = fi.svf.lp(cutoff, q, x), fi.svf.hp(cutoff, q, x), fi.svf.bp(cutoff, q, x) / q : ba.selectn(3, kind);
two(x) = fi.svf.lp(cutoff, 0.70711, x), fi.svf.hp(cutoff, 0.70711, x), fi.svf.bp(cutoff, q, x) / q : ba.selectn(3, kind);
side(x) = one(x) <: _, two : select2(steep > 0.5);
process = side, side;
