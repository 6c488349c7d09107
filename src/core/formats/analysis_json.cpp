// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/analysis_json.hpp"

#include "base/pitch.hpp"

#include <cmath>
#include <nlohmann/json.hpp>

namespace fw {

namespace {

using Json = nlohmann::ordered_json;

double round_to(double value, double places) { return std::round(value * places) / places; }
double ms(double seconds) { return round_to(seconds, 1e5); }
double share(double confidence) { return round_to(confidence, 1e3); }

Json note_json(const HeardNote& n) {
    Json one = {
        {"onset_s", ms(n.onset_s)}, {"duration_s", ms(n.duration_s)}, {"pitch", n.pitch}, {"velocity", n.velocity}, {"confidence", share(n.confidence)}};
    if (!n.bend.empty()) {
        one["bend"] = Json::array();
        for (const HeardBend& b : n.bend) one["bend"].push_back(Json::array({ms(b.offset_s), b.cents}));
    }
    return one;
}

Json key_json(const Key& key, double confidence) {
    return {{"tonic", pitch_class_name(key.tonic, key.flats())}, {"mode", mode_name(key.mode)}, {"confidence", share(confidence)}};
}

template <class List, class Function>
Json list_of(const List& items, Function&& one) {
    Json list = Json::array();
    for (const auto& item : items) list.push_back(one(item));
    return list;
}

}  // namespace

std::string analysis_to_json(const Analysis& a) {
    Json j;
    j["schema"] = "fakturwerk-analysis/1";
    j["reference"] = {{"path", a.path},
                      {"duration_s", ms(a.duration_s)},
                      {"sample_rate_hz", a.sample_rate_hz},
                      {"channels", a.channels},
                      {"integrated_lufs", round_to(a.integrated_lufs, 100)}};
    j["tuning"] = {{"a4_hz", round_to(a.tuning.a4_hz(), 1e3)},
                   {"cents", round_to(a.tuning.cents, 100)},
                   {"drift_cents", round_to(a.tuning.drift_cents, 100)},
                   {"confidence", share(a.tuning.confidence)}};
    j["tempo"] = {{"bpm", round_to(a.tempo.bpm, 1e4)},
                  {"error_bpm", round_to(a.tempo.error_bpm, 1e4)},
                  {"steady", a.tempo.steady},
                  {"confidence", share(a.tempo.confidence)},
                  {"alternatives", list_of(a.tempo.alternatives,
                                           [](const TempoCandidate& c) {
                                               return Json{{"bpm", round_to(c.bpm, 1e4)}, {"confidence", share(c.confidence)}};
                                           })},
                  {"segments", list_of(a.tempo.segments,
                                       [](const TempoSegment& s) {
                                           return Json{{"start_s", ms(s.start_s)}, {"end_s", ms(s.end_s)}, {"bpm", round_to(s.bpm, 1e4)}};
                                       })},
                  {"free_time", list_of(a.tempo.free_time, [](const auto& x) {
                       return Json{{"start_s", ms(x.first)}, {"end_s", ms(x.second)}};
                   })}};
    j["meter"] = list_of(a.meter, [](const MeterChange& m) { return Json{{"bar", m.bar}, {"numerator", m.numerator}, {"denominator", m.denominator}}; });
    j["beats"] = list_of(a.beats, [](const Beat& b) { return Json{{"time_s", ms(b.time_s)}, {"bar", b.bar}, {"beat", b.beat}}; });
    j["swing"] = {{"ratio", round_to(a.swing.ratio, 1e3)}, {"subdivision", a.swing.subdivision}, {"confidence", share(a.swing.confidence)}};
    j["key"] = list_of(a.keys, [](const KeySpan& k) {
        Json one = {{"start_s", ms(k.start_s)}, {"end_s", ms(k.end_s)}};
        one.update(key_json(k.key, k.confidence));
        one["alternatives"] = list_of(k.alternatives, [](const auto& x) { return key_json(x.first, x.second); });
        return one;
    });
    j["chords"] = list_of(a.chords, [](const ChordSpan& c) {
        return Json{{"start_s", ms(c.start_s)},
                    {"end_s", ms(c.end_s)},
                    {"label", c.chord.label()},
                    {"confidence", share(c.confidence)},
                    {"alternatives", list_of(c.alternatives, [](const auto& x) {
                         return Json{{"label", x.first.label()}, {"confidence", share(x.second)}};
                     })}};
    });
    j["sections"] = list_of(a.sections, [](const SectionSpan& s) {
        Json one = {{"start_s", ms(s.start_s)}, {"end_s", ms(s.end_s)}, {"start_bar", s.start_bar}, {"bars", s.bars},
                    {"label", s.label},         {"name", s.name},       {"repeat_of", nullptr},     {"confidence", share(s.confidence)}};
        if (s.repeat_of >= 0) one["repeat_of"] = s.repeat_of;
        one["differences"] = list_of(s.differences, [](const BarDifference& d) {
            return Json{{"bar", d.bar}, {"of_bar", d.of_bar}, {"element", d.element}, {"missing", d.missing}, {"added", d.added}};
        });
        return one;
    });
    j["presence"] = list_of(a.presence, [](const Presence& p) {
        return Json{{"element", p.element}, {"start_bar", p.start_bar}, {"bars", p.bars}, {"start_s", ms(p.start_s)}, {"end_s", ms(p.end_s)}};
    });
    j["parts"] = list_of(a.parts, [](const HeardPart& p) {
        return Json{{"role", part_role_name(p.role)}, {"name", p.name}, {"notes", list_of(p.notes, note_json)}};
    });
    j["notes"] = list_of(a.notes, note_json);
    j["drums"] = list_of(a.drums, [](const Hit& h) {
        return Json{{"time_s", ms(h.time_s)}, {"kind", drum_sound(h.kind).id}, {"velocity", h.velocity}, {"confidence", share(h.confidence)}};
    });
    j["feel"] = {{"steps_per_bar", a.feel.steps_per_bar},
                 {"steps_per_beat", a.feel.steps_per_beat},
                 {"drums", list_of(a.feel.drums, [](const DrumFeel& d) {
                      return Json{{"kind", drum_sound(d.kind).id}, {"steps", list_of(d.steps, [](const StepFeel& s) {
                                                                        return Json{{"step", s.step},
                                                                                    {"count", s.count},
                                                                                    {"offset_ms", round_to(s.offset_ms, 10)},
                                                                                    {"spread_ms", round_to(s.spread_ms, 10)},
                                                                                    {"velocity", round_to(s.velocity, 10)}};
                                                                    })}};
                  })}};
    // A file name may hold bytes that are not UTF-8; they are replaced, never a reason to fail.
    return j.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

}  // namespace fw
