// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/check_json.hpp"

#include "check/words.hpp"

#include <cmath>
#include <nlohmann/json.hpp>

namespace fw {

std::string check_to_json(const CheckReport& report) {
    using Json = nlohmann::ordered_json;
    const auto rounded = [](double v, double places) { return std::round(v * places) / places; };
    Json j;
    const auto figure = [&](const std::optional<double>& v) { return v ? Json(rounded(*v, 1e4)) : Json(nullptr); };
    const auto match = [&](const Match& m) { return Json{{"notes", figure(m.notes)}, {"sound", figure(m.sound)}, {"known", figure(m.known)}}; };
    j["schema"] = "fakturwerk-check/2";
    j["match"] = match(report.match);
    j["elements"] = Json::array();
    for (const ElementMatch& e : report.elements) {
        Json bars = Json::array();
        for (const auto& b : e.bars) bars.push_back(match({b, {}, {}}));
        Json sections = Json::array();
        for (const auto& s : e.sections) sections.push_back(match({s, {}, {}}));
        j["elements"].push_back(
            {{"name", e.name}, {"kind", e.kind}, {"match", match(e.match)}, {"measures", e.measures}, {"bars", bars}, {"sections", sections}});
    }
    j["bars"] = Json::array();
    for (const auto& b : report.bars) j["bars"].push_back(match({b, {}, {}}));
    j["sections"] = Json::array();
    for (std::size_t i = 0; i < std::max(report.sections.size(), report.sound.sections.size()); ++i) {
        const SectionSound* s = i < report.sound.sections.size() ? &report.sound.sections[i] : nullptr;
        Json one{{"match", match({i < report.sections.size() ? report.sections[i] : std::nullopt, s ? s->sound : std::nullopt, {}})}};
        if (s) one.update({{"name", s->name}, {"start_s", rounded(s->from_s, 1e3)}, {"end_s", rounded(s->to_s, 1e3)}, {"level_db", rounded(s->level_db, 10)}});
        j["sections"].push_back(std::move(one));
    }
    j["findings"] = Json::array();
    for (const Finding& f : report.findings) {
        Json one = {{"kind", finding_kind_name(f.kind)}, {"element", f.name}, {"start_s", rounded(f.start_s, 1e4)},
                    {"end_s", rounded(f.end_s, 1e4)},    {"bar", f.bar},      {"beat", rounded(f.beat, 1e3)}};
        if (f.pitch >= 0) one["pitch"] = f.pitch;
        if (f.expected_pitch >= 0) one["expected_pitch"] = f.expected_pitch;
        one.update({{"size", rounded(f.size, 100)},
                    {"unit", f.unit},
                    {"confidence", rounded(f.confidence, 1e3)},
                    {"listed", f.listed()},
                    {"cause", finding_cause_name(f.kind)},
                    {"message", finding_sentence(f)},
                    {"remedy", remedy_words(f)}});
        j["findings"].push_back(std::move(one));
    }
    j["tone"] = Json::array();
    for (const ToneBand& t : report.sound.tone)
        j["tone"].push_back({{"center_hz", rounded(t.center_hz, 10)}, {"original_db", rounded(t.original_db, 10)}, {"rebuild_db", rounded(t.rebuild_db, 10)}});
    j["loudness"] = {{"original_lufs", rounded(report.sound.original_lufs, 100)},     {"rebuild_lufs", rounded(report.sound.rebuild_lufs, 100)},
                     {"match_gain_db", rounded(report.sound.match_gain_db, 100)},     {"original_peak_db", rounded(report.sound.original_peak_db, 10)},
                     {"rebuild_peak_db", rounded(report.sound.rebuild_peak_db, 10)},  {"original_noise_db", rounded(report.sound.original_noise_db, 10)},
                     {"rebuild_noise_db", rounded(report.sound.rebuild_noise_db, 10)}};
    j["width"] = Json::array();
    for (const WidthBand& w : report.sound.width)
        j["width"].push_back({{"band", w.band}, {"original", rounded(w.original, 1e3)}, {"rebuild", rounded(w.rebuild, 1e3)}});
    return j.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

}  // namespace fw
