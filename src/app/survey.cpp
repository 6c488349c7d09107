// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/survey.hpp"

#include "app/words.hpp"
#include "base/pitch.hpp"
#include "check/share.hpp"
#include "engine/offline.hpp"

#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {

std::string number_text(double value) {
    char text[40];
    std::snprintf(text, sizeof text, "%.6f", value);
    return text;
}

}  // namespace

Survey::Survey(Session& session) : session_(session) {
    tap_timer_.setSingleShot(true);
    tap_timer_.setInterval(1600);
    connect(&tap_timer_, &QTimer::timeout, this, &Survey::take_taps);
    clock_.setInterval(5000);
    connect(&clock_, &QTimer::timeout, this, &Survey::take_time);
    clock_.start();
    connect(&session_, &Session::document_changed, this, &Survey::follow);
    connect(&session_, &Session::analysis_changed, this, &Survey::follow);
    connect(&session_.selection(), &Selection::changed, this, [this] {
        if (session_.transport().lens().kind == LensKind::Element) set_lens(session_.transport().lens());
    });
}

void Survey::follow() {
    const Song& song = *session_.remake().song;
    if (analysis_ != session_.recording().analysis) clearest_.clear(), clearest_of_ = {}, taps_s_.clear(), faint_.reset(), probed_.reset();
    else if (counted_ && counted_->tempo == song.tempo && counted_->meter == song.meter && counted_->free_time == song.free_time) return;
    analysis_ = session_.recording().analysis;
    counted_ = std::make_shared<const Song>(song);
    heard_reading_.reset();
    readings_.clear();
    refresh_clicks();
    judge();
    emit changed();
}

void Survey::refresh_clicks() {
    Song song = *session_.remake().song;
    if (heard_reading_) {
        const Reading& r = *heard_reading_;
        song.tempo = song.tempo.reread(r.factor, -r.later);
        if (r.numerator > 0) song.meter = MeterMap({{1, r.numerator, r.denominator}});
        song.free_time.clear();
    }
    const double end_s = session_.remake().reference.duration_s;
    session_.transport().set_clicks(std::make_shared<const ClickTrack>(clicks_of(song, end_s, session_.transport().click().between)),
                                    heard_reading_.has_value());
}

void Survey::judge() {
    if (!analysis_ || session_.provisional() || !analysis_->evidence || !analysis_->evidence->pitch_frames()) return;
    jobs_.run("readings", tr("judging other ways to count"), [this]() -> JobQueue::Work {
        return [this, song = counted_, analysis = analysis_](const Progress&) -> Result<JobQueue::Delivery> {
            auto found = std::make_shared<std::vector<Reading>>(fw::readings(*song, *analysis->evidence));
            return JobQueue::Delivery([this, song, found] {
                if (song != counted_) return;
                readings_ = std::move(*found);
                emit changed();
            });
        };
    });
}

void Survey::hear_reading(const Reading* reading) {
    heard_reading_ = reading ? std::optional(*reading) : std::nullopt;
    refresh_clicks();
    if (reading) {
        session_.transport().set_source(Source::Original);
        if (!session_.transport().player().playing()) session_.transport().toggle_play();
    }
    emit changed();
}

void Survey::take_reading(const Reading& reading) {
    Line line("tempo.read");
    line.with("factor", number_text(reading.factor));
    if (reading.later != 0) line.with("later", length_text(reading.later));
    if (reading.numerator > 0) line.with("meter", std::to_string(reading.numerator) + "/" + std::to_string(reading.denominator));
    session_.documents().run(line);
}

void Survey::tap() {
    if (!session_.has_reference() || session_.provisional()) return;
    if (!session_.transport().player().playing()) {
        taps_s_.clear();
        session_.transport().set_source(Source::Original);
        session_.transport().toggle_play();
        emit session_.told(tr("Now tap on every beat; the tempo is taken once you rest."));
        return;
    }
    const double now_s = session_.transport().position_s();
    if (!taps_s_.empty() && (now_s <= taps_s_.back() || now_s > taps_s_.back() + 4.0)) taps_s_.clear();
    taps_s_.push_back(now_s);
    tap_timer_.start();
    if (taps_s_.size() >= 4)
        if (const auto meaning = meaning_of_taps(*session_.remake().song, *analysis_->evidence, taps_s_))
            emit session_.told(tr("%1 taps, %2 BPM").arg(taps_s_.size()).arg(meaning->tapped_bpm, 0, 'f', 1));
    emit changed();
}

void Survey::take_taps() {
    const std::vector<double> taps = std::exchange(taps_s_, {});
    emit changed();
    if (taps.size() < 2) return;
    const Song& song = *session_.remake().song;
    const auto meaning = analysis_ ? meaning_of_taps(song, *analysis_->evidence, taps) : std::nullopt;
    if (!meaning) {
        emit session_.told(taps.size() < 4 ? tr("Four taps at least tell a tempo: tap on every beat while it plays.")
                                           : tr("These taps are no steady pulse: tap on every beat, as evenly as you can."));
        return;
    }
    bool done = false;
    if (meaning->beats_s.empty()) {
        if (meaning->factor == 1.0 && meaning->later == 0) {
            emit session_.told(tr("The taps fall on the beats as they are counted: nothing is changed."));
            return;
        }
        Reading r;
        r.factor = meaning->factor, r.later = meaning->later;
        done = session_.documents().run(Line("tempo.read").with("factor", number_text(r.factor)).with("later", length_text(r.later)));
    } else {
        std::string beats;
        const Ticks beat = song.meter.at_bar(1).beat_ticks();
        for (std::size_t i = 0; i < meaning->beats_s.size(); ++i)
            beats += std::to_string(static_cast<Ticks>(i) * beat) + " " + number_text(meaning->beats_s[i]) + " ";
        done = session_.documents().run(Line("tempo.map").with("beats", beats));
    }
    if (done)
        emit session_.told(tr("Counted as it was tapped: %1. If bars begin on another beat, put the playhead on it and press B.")
                               .arg(QString::fromStdString(session_.remake().song->tempo_text())));
}

Ticks Survey::here() const { return session_.remake().song->tempo.nearest_tick(session_.transport().position_s()); }

std::pair<int, int> Survey::bars_meant() const {
    const Song& song = *session_.remake().song;
    const Transport& t = session_.transport();
    if (t.loop_end() > t.loop_start()) {
        // To the nearest bar lines, so that a loop that was dragged by hand means whole bars.
        const auto line = [&](double s) {
            const Ticks at = song.tempo.nearest_tick(s);
            const int bar = song.meter.position(at).bar;
            return at - song.meter.tick_of_bar(bar) <= song.meter.tick_of_bar(bar + 1) - at ? bar : bar + 1;
        };
        const int first = line(t.loop_start()), last = line(t.loop_end());
        if (last > first) return {first, last};
    }
    const int bar = song.meter.position(here()).bar;
    return {bar, bar + 1};
}

void Survey::count_more_bars(int more) {
    const auto [first, last] = bars_meant();
    if (last - first + more < 1) {
        emit session_.told(tr("One bar has to be left: loop two bars or more to count them as fewer."));
        return;
    }
    session_.documents().run(
        Line("bars.count").with("from", std::to_string(first)).with("to", std::to_string(last)).with("bars", std::to_string(last - first + more)));
}

void Survey::make_steady() {
    const auto [first, last] = bars_meant();
    const Song& song = *session_.remake().song;
    const SteadyFit fit = fit_steady(song, song.meter.tick_of_bar(first), song.meter.tick_of_bar(last));
    if (session_.documents().run(Line("tempo.steady").with("from", std::to_string(first)).with("to", std::to_string(last))))
        emit session_.told(tr("Bars %1 to %2 at %3 BPM; their beats lay within %4 ms of it, %5 ms at most.")
                               .arg(first)
                               .arg(last - 1)
                               .arg(fit.bpm, 0, 'f', 2)
                               .arg(fit.rms_ms, 0, 'f', 1)
                               .arg(fit.most_ms, 0, 'f', 1));
}

void Survey::follow_recording() {
    if (!analysis_) return;
    const auto [first, last] = bars_meant();
    const Song& song = *session_.remake().song;
    const auto beats = beats_as_heard(song, *analysis_->evidence, song.meter.tick_of_bar(first), song.meter.tick_of_bar(last));
    std::string times;
    for (const double s : beats) times += number_text(s) + " ";
    session_.documents().run(Line("tempo.beats").with("from", std::to_string(first)).with("times", times));
}

void Survey::toggle_free_time() {
    const auto [first, last] = bars_meant();
    const MeterMap& meter = session_.remake().song->meter;
    const Ticks from = meter.tick_of_bar(first);
    if (session_.remake().song->is_free(from)) session_.documents().run(Line("free.clear").with("at", std::to_string(first)));
    else session_.documents().run(Line("free.mark").with("from", std::to_string(first)).with("length", length_text(meter.tick_of_bar(last) - from)));
}

void Survey::pin_here() {
    const Song& song = *session_.remake().song;
    const double now_s = session_.transport().position_s();
    const Ticks beat = song.meter.at_bar(song.meter.position(here()).bar).beat_ticks();
    const auto nearest = static_cast<Ticks>(std::llround(song.tempo.ticks(now_s) / static_cast<double>(beat))) * beat;
    session_.documents().run(Line("tempo.pin").with("at", place_text(song.meter, nearest)).with("time", number_text(now_s)));
}

void Survey::unpin_here() {
    const auto& pins = session_.remake().song->pins;
    if (pins.empty()) {
        emit session_.told(tr("No beat is pinned: drag a bar line or a beat on the page to put it where it belongs."));
        return;
    }
    const Ticks now = here();
    const auto nearest = std::min_element(pins.begin(), pins.end(), [&](const Pin& a, const Pin& b) { return std::abs(a.at - now) < std::abs(b.at - now); });
    session_.documents().run(Line("tempo.unpin").with("at", place_text(session_.remake().song->meter, nearest->at)));
}

void Survey::split_section_here() { session_.documents().run(Line("section.split").with("at", place_text(session_.remake().song->meter, here()))); }

void Survey::merge_section_here() {
    const int at = session_.remake().song->section_at(here());
    if (at < 0) {
        emit session_.told(tr("There is no section at the playhead."));
        return;
    }
    session_.documents().run(
        Line("section.merge").with("section", section_text(session_.remake(), session_.remake().song->sections[static_cast<std::size_t>(at)].id)));
}

void Survey::start_section_here() {
    const auto& sections = session_.remake().song->sections;
    const Section* nearest = nullptr;
    for (const Section& s : sections)
        if (!nearest || std::abs(s.start - here()) < std::abs(nearest->start - here())) nearest = &s;
    if (!nearest) {
        emit session_.told(tr("There is no section yet: S makes one begin at the playhead."));
        return;
    }
    session_.documents().run(
        Line("section.start").with("section", section_text(session_.remake(), nearest->id)).with("to", place_text(session_.remake().song->meter, here())));
}

// --- how it is heard ---

void Survey::set_lens(Lens lens) {
    if (lens.kind == LensKind::Element) lens.share = analysis_ ? share_of(*analysis_, session_.remake(), session_.selection().element()) : nullptr;
    session_.transport().set_lens(std::move(lens));
}

void Survey::set_click(const Transport::Click& click) {
    const bool others = click.between != session_.transport().click().between;
    session_.transport().set_click(click);
    if (others) refresh_clicks();
}

void Survey::loop(Ticks from, Ticks to) {
    const TempoMap& tempo = session_.remake().song->tempo;
    session_.transport().set_loop(tempo.seconds(from), tempo.seconds(to));
}

void Survey::loop_bar() {
    const MeterMap& meter = session_.remake().song->meter;
    const int bar = meter.position(here()).bar;
    loop(meter.tick_of_bar(bar), meter.tick_of_bar(bar + 1));
}

void Survey::loop_section() {
    const int at = session_.remake().song->section_at(here());
    if (at < 0) return;
    const Section& s = session_.remake().song->sections[static_cast<std::size_t>(at)];
    loop(s.start, s.start + s.length);
}

void Survey::loop_notes() {
    const Part* part = session_.selection().part();
    Ticks from = 0, to = 0;
    if (part)
        for (const PlacedNote& n : placed_notes(*part))
            if (session_.selection().contains(n)) {
                if (to == 0) from = n.note.start;
                from = std::min(from, n.note.start), to = std::max(to, n.note.start + n.note.length);
            }
    if (to > from) loop(from, to);
    else emit session_.told(tr("No notes are selected: select some in a close-up to loop them."));
}

void Survey::remember_spot() {
    const auto [first, last] = bars_meant();
    const MeterMap& meter = session_.remake().song->meter;
    const Lens& lens = session_.transport().lens();
    const std::string name = last - first == 1 ? "bar " + std::to_string(first) : "bars " + std::to_string(first) + " to " + std::to_string(last - 1);
    const std::string seen = lens.kind == LensKind::Whole ? std::string() : lens_text(lens);
    Line line("spot.add");
    line.with("name", seen.empty() ? name : name + ", " + seen)
        .with("at", std::to_string(first))
        .with("length", length_text(meter.tick_of_bar(last) - meter.tick_of_bar(first)));
    if (!seen.empty()) line.with("lens", seen);
    if (session_.documents().run(line))
        emit session_.told(tr("Remembered: %1. Shift+M comes back to it.").arg(QString::fromStdString(seen.empty() ? name : name + ", " + seen)));
}

void Survey::go_to_spot(const Spot& spot) {
    set_lens(parse_lens(spot.lens).value_or(Lens{}));
    loop(spot.start, spot.start + spot.length);
    session_.transport().seek(session_.transport().loop_start());
}

void Survey::next_spot() {
    const auto& spots = session_.remake().notebook->spots;
    if (spots.empty()) {
        emit session_.told(tr("No place is remembered yet: M remembers what is looped, with its lens."));
        return;
    }
    const Ticks now = here();
    const Spot* next = nullptr;
    for (const Spot& s : spots)
        if (s.start > now && (!next || s.start < next->start)) next = &s;
    if (!next) next = &*std::min_element(spots.begin(), spots.end(), [](const Spot& a, const Spot& b) { return a.start < b.start; });
    go_to_spot(*next);
}

void Survey::next_clearest() {
    const Part* part = session_.selection().part();
    if (!analysis_ || !part) {
        emit session_.told(tr("Choose a part in the ledger first: then its clearest moments in the original are heard one after the other."));
        return;
    }
    if (clearest_of_ != session_.selection().element()) {
        clearest_of_ = session_.selection().element();
        clearest_ = clearest_moments(*analysis_, part->role, part->name);
        if (clearest_.empty()) clearest_ = clearest_moments(*analysis_, part->role);
        clearest_at_ = 0;
    } else if (!clearest_.empty()) {
        clearest_at_ = (clearest_at_ + 1) % clearest_.size();
    }
    if (clearest_.empty()) {
        emit session_.told(tr("Nothing of %1 was heard clearly anywhere.").arg(QString::fromStdString(part->name)));
        return;
    }
    const ClearMoment& m = clearest_[clearest_at_];
    session_.transport().set_source(Source::Original);
    session_.transport().set_loop(m.start_s - 0.05, m.end_s + 0.15);
    session_.transport().seek(session_.transport().loop_start());
    if (!session_.transport().player().playing()) session_.transport().toggle_play();
    const Song& song = *session_.remake().song;
    const Ticks at = song.tempo.nearest_tick(m.start_s);
    const QString what = m.pitch >= 0 ? QString::fromStdString(note_name(m.pitch, song.flats_at(at))) : QString(drum_sound(m.kind).name);
    emit session_.told(tr("%1 of %2: %3 at %4, %5 % of what sounds there. N goes on to the next.")
                           .arg(clearest_at_ + 1)
                           .arg(clearest_.size())
                           .arg(what, QString::fromStdString(place_text(song.meter, at)))
                           .arg(std::lround(100.0 * m.alone)));
    emit changed();
}

void Survey::probe() {
    if (!session_.has_reference()) return;
    const Transport& t = session_.transport();
    double from_s = t.loop_start(), to_s = t.loop_end();
    if (to_s <= from_s) from_s = t.position_s(), to_s = from_s + 0.25;
    to_s = std::min(to_s, from_s + 4.0);
    const Source source = session_.transport().player().source();
    const Part* part = source == Source::Rebuild ? session_.selection().part() : nullptr;
    const auto sound = session_.recording().sound;
    if (!part && !sound) return;
    jobs_.run("probe", tr("probing a pitch"), [&]() -> JobQueue::Work {
        return [this, from_s, to_s, sound, lens = t.lens(), rate = t.rate_hz(), id = part ? std::optional(part->id) : std::nullopt,
                document = session_.documents().document()](const Progress& progress) -> Result<JobQueue::Delivery> {
            // A little more before, so that filters have settled.
            const auto lead = static_cast<std::int64_t>(0.2 * rate), from = std::max<std::int64_t>(0, static_cast<std::int64_t>(from_s * rate) - lead),
                       to = static_cast<std::int64_t>(to_s * rate);
            std::vector<float> left, right;
            const auto take = [&](std::span<const float> stereo) {
                for (std::size_t i = 0; i + 1 < stereo.size(); i += 2) left.push_back(stereo[i]), right.push_back(stereo[i + 1]);
            };
            if (id) {
                const auto plan = compile_plan(*document, {rate, assets_beside(sound)});
                RenderRange range;
                range.what = RenderWhat::of(*id);
                range.from = from, range.to = std::max(from + 1, to);
                const auto rendered = render_offline(*plan, range, progress);
                if (!rendered) return rendered.error();
                take(rendered->samples);
            } else {
                const auto frames = static_cast<std::int64_t>(sound->frames());
                if (from < frames)
                    take(std::span(sound->samples).subspan(static_cast<std::size_t>(2 * from), static_cast<std::size_t>(2 * (std::min(frames, to) - from))));
            }
            LensFilter filter(rate);
            filter.jump(&lens);
            for (std::size_t at = 0; at < left.size(); at += LensFilter::kLargestBlock) {
                const std::size_t n = std::min(LensFilter::kLargestBlock, left.size() - at);
                filter.process(std::span(left).subspan(at, n), std::span(right).subspan(at, n), from + static_cast<std::int64_t>(at));
            }
            std::vector<float> mono;
            for (std::size_t i = std::min(left.size(), static_cast<std::size_t>(lead)); i < left.size(); ++i) mono.push_back(0.5F * (left[i] + right[i]));
            double low = 25.0, high = 4200.0;
            if (lens.kind == LensKind::Band) low = std::max(low, lens.low_hz * 0.9), high = std::min(high, lens.high_hz * 1.1);
            if (lens.kind == LensKind::Pitch) low = lens.pitch_hz / 1.3, high = lens.pitch_hz * 1.3;
            if (lens.kind == LensKind::Low) high = 300.0;
            const auto found = probe_pitch(mono, rate, low, std::max(high, low * 1.5));
            return JobQueue::Delivery([this, found] {
                probed_ = found;
                emit session_.told(probed_words());
                emit changed();
            });
        };
    });
}

QString Survey::probed_words() const {
    if (!probed_) return tr("No single pitch is clear there: choose a shorter stretch, or a lens around what is meant.");
    const Song& song = *session_.remake().song;
    const bool flats = song.flats_at(here());
    const auto named = [&](double hz) {
        const double pitch = pitch_of(hz);
        const int key = static_cast<int>(std::lround(pitch)), cents = static_cast<int>(std::lround(100.0 * (pitch - key)));
        return tr("%1 %2%3 cents").arg(QString::fromStdString(note_name(key, flats)), cents < 0 ? QString("−") : QString("+")).arg(std::abs(cents));
    };
    QString words = tr("%1, %2 Hz, %3 % clear").arg(named(probed_->hz)).arg(probed_->hz, 0, 'f', 2).arg(std::lround(100.0 * probed_->clear));
    if (std::abs(std::log2(probed_->end_hz / probed_->start_hz)) > 0.4 / 12.0)
        words += tr("; from %1 to %2").arg(named(probed_->start_hz), named(probed_->end_hz));
    return words;
}

void Survey::scan_for_faint() {
    if (!analysis_ || !session_.recording().sound) return;
    jobs_.run("faint", tr("looking for what is faint"), [this]() -> JobQueue::Work {
        return [this, analysis = analysis_, document = session_.documents().document(),
                summary = session_.recording().summary](const Progress&) -> Result<JobQueue::Delivery> {
            auto found = std::make_shared<std::vector<FaintFind>>(scan_faint(*analysis, *document, summary));
            return JobQueue::Delivery([this, analysis, found] {
                if (analysis != analysis_) return;
                faint_ = std::move(*found);
                emit session_.told(faint_->empty() ? tr("Nothing is found below the rest.") : tr("%1 found: Sections lists them below.").arg(faint_->size()));
                emit changed();
            });
        };
    });
    session_.selection().select_element(ElementId::sections());
}

void Survey::hear_faint(const FaintFind& find) {
    Lens band;
    band.kind = LensKind::Band;
    band.low_hz = std::max(20.0, find.low_hz), band.high_hz = std::max(find.high_hz, 1.2 * band.low_hz);
    session_.transport().set_lens(band);
    session_.transport().set_source(Source::Original);
    session_.transport().set_loop(find.from_s, std::min(find.to_s, find.from_s + 8.0));
    session_.transport().seek(session_.transport().loop_start());
    if (!session_.transport().player().playing()) session_.transport().toggle_play();
}

/// Time counts while something is done: it plays, or the document has changed since.
void Survey::take_time() {
    const auto now = session_.documents().document();
    const bool busy = session_.transport().player().playing() || now != seen_;
    seen_ = now;
    if (!busy || !session_.has_reference() || session_.provisional()) return;
    const ElementId id = session_.selection().element();
    const bool was_up = session_.documents().time_is_up(id);
    session_.documents().spend(id, clock_.interval() / 1000.0);
    if (!was_up && session_.documents().time_is_up(id))
        emit session_.told(tr("The %1 min for %2 are used up: is it close enough? Check ▸ What next says where time is worth most.")
                               .arg(session_.remake().element(id).budget_min)
                               .arg(QString::fromStdString(session_.remake().element_name(id))));
}

void Survey::toggle_drone(const std::vector<int>& pitches) {
    Drone drone;
    const double cents = session_.remake().song->tuning_cents;
    for (const int p : pitches)
        if (drone.count < Drone::kMost) drone.hz[drone.count++] = hertz_of(p + cents / 100.0);
    const Drone& now = session_.transport().drone();
    session_.transport().set_drone(now.count == drone.count && now.hz == drone.hz ? Drone{} : drone);
    emit changed();
}

}  // namespace fw::app
