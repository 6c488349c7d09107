// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/places.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <cstdio>

namespace fw {

namespace {

std::string_view trimmed(std::string_view text) {
    while (!text.empty() && text.front() == ' ') text.remove_prefix(1);
    while (!text.empty() && text.back() == ' ') text.remove_suffix(1);
    return text;
}

template <class Number>
std::optional<Number> number_of(std::string_view text) {
    Number n{};
    const auto [end, bad] = std::from_chars(text.data(), text.data() + text.size(), n);
    if (bad != std::errc{} || end != text.data() + text.size()) return std::nullopt;
    return n;
}

/// "NAME 2", "NAME #2" → NAME and 2; 0 where no number is said.
std::pair<std::string_view, int> name_and_number(std::string_view text) {
    const auto space = text.rfind(' ');
    if (space == std::string_view::npos) return {text, 0};
    std::string_view last = text.substr(space + 1);
    if (!last.empty() && last.front() == '#') last.remove_prefix(1);
    const auto n = number_of<int>(last);
    return n && *n > 0 ? std::pair{trimmed(text.substr(0, space)), *n} : std::pair{text, 0};
}

/// The n-th of the things whose name it is; the whole text as a name comes before a number in it.
template <class List, class Name>
auto nth_named(const List& items, std::string_view text, Name&& name) -> decltype(&*items.begin()) {
    for (const auto& item : items)
        if (same_words(name(item), text)) return &item;
    const auto [plain, wanted] = name_and_number(text);
    int n = 0;
    for (const auto& item : items)
        if (wanted > 0 && same_words(name(item), plain) && ++n == wanted) return &item;
    return nullptr;
}

/// The name alone where it is the first of its kind, else with its number.
template <class List, class Name, class Is>
std::string text_of(const List& items, Name&& name, Is&& is) {
    for (const auto& item : items) {
        if (!is(item)) continue;
        int n = 0;
        for (const auto& other : items) {
            if (same_words(name(other), name(item))) ++n;
            if (&other == &item) break;
        }
        return n == 1 ? name(item) : name(item) + " #" + std::to_string(n);
    }
    return {};
}

std::string part_name(const Shared<Part>& p) { return p->name; }
std::string bus_name(const Bus& b) { return b.name; }
std::string clip_name(const Clip& c) { return c.name; }

}  // namespace

bool same_words(std::string_view a, std::string_view b) {
    return a.size() == b.size() &&
           std::equal(a.begin(), a.end(), b.begin(), [](unsigned char x, unsigned char y) { return std::tolower(x) == std::tolower(y); });
}

const Section* find_section(const Remake& remake, std::string_view given) {
    const std::string_view text = trimmed(given);
    const auto& sections = remake.song->sections;
    if (text.empty()) return nullptr;
    if (text.front() == '#') {
        const auto n = number_of<std::size_t>(text.substr(1));
        return n && *n >= 1 && *n <= sections.size() ? &sections[*n - 1] : nullptr;
    }
    if (const Section* named = nth_named(sections, text, [](const Section& s) { return s.name; })) return named;
    return nth_named(sections, text, [](const Section& s) { return s.label; });
}

std::string section_text(const Remake& remake, SectionId id) {
    const auto& sections = remake.song->sections;
    const auto at = std::find_if(sections.begin(), sections.end(), [&](const Section& s) { return s.id == id; });
    if (at == sections.end()) return {};
    const std::string text = text_of(
        sections, [](const Section& s) { return s.name.empty() ? s.label : s.name; }, [&](const Section& s) { return s.id == id; });
    // Where names mislead the number among all says it.
    return find_section(remake, text) == &*at ? text : "#" + std::to_string(at - sections.begin() + 1);
}

const Part* find_part(const Remake& remake, std::string_view text) {
    const auto* found = nth_named(remake.parts, trimmed(text), part_name);
    return found ? found->get() : nullptr;
}

std::string part_text(const Remake& remake, PartId part) {
    return text_of(remake.parts, part_name, [&](const Shared<Part>& p) { return p->id == part; });
}

const Bus* find_bus(const Remake& remake, std::string_view text) { return nth_named(remake.mixer->buses, trimmed(text), bus_name); }

std::string bus_text(const Remake& remake, BusId bus) {
    return text_of(remake.mixer->buses, bus_name, [&](const Bus& b) { return b.id == bus; });
}

const Clip* find_clip(const Remake& remake, std::string_view text) { return nth_named(remake.clips->clips, trimmed(text), clip_name); }

std::string clip_text(const Remake& remake, ClipId clip) {
    return text_of(remake.clips->clips, clip_name, [&](const Clip& c) { return c.id == clip; });
}

namespace {

/// Words between spaces, in small letters, without those that only make a sentence of them.
std::vector<std::string> telling_words(std::string_view text) {
    std::vector<std::string> words;
    std::string word;
    for (std::size_t i = 0; i <= text.size(); ++i) {
        if (i < text.size() && text[i] != ' ' && text[i] != ',') {
            word += static_cast<char>(std::tolower(static_cast<unsigned char>(text[i])));
            continue;
        }
        for (const char* plain : {"", "the", "in", "of", "bar", "beat", "at"})
            if (word == plain) word.clear();
        if (!word.empty()) words.push_back(word);
        word.clear();
    }
    return words;
}

std::optional<int> counted(const std::string& word) {
    constexpr std::array kNumbers{"one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"};
    for (std::size_t i = 0; i < kNumbers.size(); ++i)
        if (word == kNumbers[i]) return static_cast<int>(i) + 1;
    return number_of<int>(word);
}

/// "the and of 2 in 7", "beat 3 of bar 5", "bar 5", "the e of one in 9": how places are counted aloud.
std::optional<Ticks> counted_place(const MeterMap& meter, std::string_view text) {
    const auto words = telling_words(text);
    if (words.empty() || words.size() > 3) return std::nullopt;
    std::size_t at = 0;
    int quarters_of_a_beat = 0;
    constexpr std::array<std::pair<const char*, int>, 5> kSyllables{{{"e", 1}, {"and", 2}, {"&", 2}, {"a", 3}, {"uh", 3}}};
    for (const auto& [syllable, quarters] : kSyllables)
        if (words[0] == syllable) quarters_of_a_beat = quarters, at = 1;
    std::vector<int> numbers;
    for (; at < words.size(); ++at) {
        const auto n = counted(words[at]);
        if (!n) return std::nullopt;
        numbers.push_back(*n);
    }
    if (numbers.empty() || numbers.size() > 2 || (quarters_of_a_beat != 0 && numbers.size() != 2)) return std::nullopt;
    const int bar = numbers.back(), beat = numbers.size() == 2 ? numbers.front() : 1;
    if (std::abs(bar) > 100'000 || beat < 1 || beat > meter.at_bar(bar).beats()) return std::nullopt;
    return meter.tick_of({bar, beat, meter.at_bar(bar).beat_ticks() * quarters_of_a_beat / 4});
}

/// "1:23.5": minutes and seconds of the recording.
std::optional<double> clock_time(std::string_view text) {
    const auto colon = text.find(':');
    if (colon == std::string_view::npos) return std::nullopt;
    const auto minutes = number_of<int>(text.substr(0, colon));
    const auto seconds = number_of<double>(text.substr(colon + 1));
    if (!minutes || !seconds || *minutes < 0 || *minutes > 600 || !(*seconds >= 0.0 && *seconds < 60.0)) return std::nullopt;
    return 60.0 * *minutes + *seconds;
}

}  // namespace

std::optional<Ticks> parse_place(const Remake& remake, std::string_view given) {
    const std::string_view text = trimmed(given);
    if (text.empty()) return std::nullopt;
    if (const auto time_s = clock_time(text)) return remake.song->tempo.nearest_tick(*time_s);
    if (text.back() == 's')
        if (const auto seconds = number_of<double>(text.substr(0, text.size() - 1)); seconds && std::isfinite(*seconds) && std::abs(*seconds) < 1e6)
            return remake.song->tempo.nearest_tick(*seconds);
    std::array<int, 3> numbers{1, 1, 0};
    std::size_t count = 0, from = 0;
    bool all_numbers = true;
    while (all_numbers && count < 3 && from <= text.size()) {
        const auto dot = std::min(text.find('.', from), text.size());
        const auto n = number_of<int>(text.substr(from, dot - from));
        if (!n) all_numbers = false;
        else numbers[count++] = *n;
        from = dot + 1;
    }
    if (all_numbers && from > text.size()) {
        const MeterMap& meter = remake.song->meter;
        if (std::abs(numbers[0]) > 100'000 || numbers[1] < 1 || numbers[1] > meter.at_bar(numbers[0]).beats() || numbers[2] < 0 ||
            numbers[2] >= meter.at_bar(numbers[0]).beat_ticks())
            return std::nullopt;
        return meter.tick_of({numbers[0], numbers[1], numbers[2]});
    }
    if (const Section* s = find_section(remake, text)) return s->start;
    return counted_place(remake.song->meter, text);
}

std::string place_text(const MeterMap& meter, Ticks tick) {
    const BarPosition p = meter.position(tick);
    std::string text = std::to_string(p.bar);
    if (p.beat != 1 || p.tick != 0) text += "." + std::to_string(p.beat);
    if (p.tick != 0) text += "." + std::to_string(p.tick);
    return text;
}

std::string seconds_text(double time_s) {
    char text[40];
    std::snprintf(text, sizeof text, "%.4fs", time_s);
    return text;
}

std::optional<Ticks> parse_length(const Remake& remake, std::string_view given) {
    std::string_view text = trimmed(given);
    const bool negative = !text.empty() && text.front() == '-';
    if (!text.empty() && (text.front() == '-' || text.front() == '+')) text = trimmed(text.substr(1));
    double ticks = 0.0;
    if (const auto slash = text.find('/'); slash != std::string_view::npos) {
        std::string_view below = text.substr(slash + 1);
        double factor = 1.0;
        if (!below.empty() && below.back() == 'T') factor = 2.0 / 3.0, below.remove_suffix(1);
        else if (!below.empty() && below.back() == '.') factor = 1.5, below.remove_suffix(1);
        const auto a = number_of<int>(text.substr(0, slash)), b = number_of<int>(below);
        if (!a || !b || *a < 0 || *b < 1) return std::nullopt;
        ticks = 4.0 * kTicksPerQuarter * *a / *b * factor;
    } else {
        const auto space = text.find_first_not_of("0123456789.");
        const auto n = number_of<double>(text.substr(0, space));
        if (!n || space == std::string_view::npos) return std::nullopt;
        const std::string_view unit = trimmed(text.substr(space));
        const auto& meter = remake.song->meter.at_bar(1);
        if (unit == "bar" || unit == "bars") ticks = *n * static_cast<double>(meter.bar_ticks());
        else if (unit == "beat" || unit == "beats") ticks = *n * static_cast<double>(meter.beat_ticks());
        else if (unit == "tick" || unit == "ticks") ticks = *n;
        else return std::nullopt;
    }
    if (!(ticks < 1e9)) return std::nullopt;
    const auto whole = static_cast<Ticks>(std::llround(ticks));
    return negative ? -whole : whole;
}

std::string length_text(Ticks length) {
    const std::string sign = length < 0 ? "-" : "";
    const Ticks l = std::abs(length);
    for (const int below : {1, 2, 4, 8, 16, 32, 64})
        if (const Ticks unit = 4 * kTicksPerQuarter / below; l > 0 && l % unit == 0 && l / unit < 64)
            return sign + std::to_string(l / unit) + "/" + std::to_string(below);
    return sign + std::to_string(l) + " ticks";
}

}  // namespace fw
