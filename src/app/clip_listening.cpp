// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/clip_listening.hpp"

#include "app/kept_file.hpp"
#include "app/painting.hpp"
#include "app/words.hpp"
#include "audio/mono.hpp"
#include "base/pitch.hpp"
#include "dsp/hits.hpp"
#include "dsp/likeness.hpp"
#include "engine/beginnings.hpp"
#include "engine/clip_sound.hpp"
#include "fit/moments.hpp"
#include "formats/sound_file.hpp"

#include <algorithm>

namespace fw::app {

ClipListening::ClipListening(Session& session) : session_(session) { connect(&jobs_, &JobQueue::failed, &session_, &Session::failed); }

void ClipListening::listen(ClipId id, const QString& what, std::vector<RecipeEntry> recipe, std::function<Result<JobQueue::Delivery>(const Audio&)> measure) {
    const Remake& r = session_.remake();
    const Clip* clip = r.clips->clip(id);
    const Asset* asset = clip ? r.clips->asset(clip->asset) : nullptr;
    if (!asset) return;
    jobs_.run("clip", what,
              [measure = std::move(measure), asset = *asset, recipe = std::move(recipe), rate = session_.transport().rate_hz(),
               assets = assets_beside(session_.recording().sound), time = clip_time(*r.song, clip->start)]() -> JobQueue::Work {
                  return [measure, asset, recipe, rate, assets, time](const Progress&) -> Result<JobQueue::Delivery> {
                      auto sound = assets(asset);
                      if (!sound) return sound.error();
                      return measure(recipe.empty() ? std::move(*sound) : follow_recipe(std::move(*sound), recipe, rate, time));
                  };
              });
}

std::vector<RecipeEntry> ClipListening::recipe_of(ClipId id) const {
    const Clip* clip = session_.remake().clips->clip(id);
    return clip ? clip->recipe : std::vector<RecipeEntry>();
}

void ClipListening::trim_to_repeat(ClipId id) {
    listen(id, tr("looking for what repeats"), recipe_of(id), [this, id](const Audio& sound) -> Result<JobQueue::Delivery> {
        return JobQueue::Delivery([this, id, repeat = find_repeat(mono_of(sound), sound.sample_rate_hz)] {
            const Remake& r = session_.remake();
            const Clip* clip = r.clips->clip(id);
            if (!clip) return;
            if (!repeat) {
                emit session_.told(tr("Nothing in %1 repeats: it is left as it is.").arg(QString::fromStdString(clip->name)));
                return;
            }
            std::vector<RecipeEntry> recipe = clip->recipe;
            recipe.push_back({Treatment::Trim, 0.0, 1000.0 * repeat->seconds, 1.0, {}});
            if (session_.documents().run(Line("clip.recipe").with("clip", clip_text(r, id)).with("recipe", recipe_text(recipe))))
                emit session_.told(
                    tr("It begins again after %1 ms, %2 alike: trimmed to that.").arg(1000.0 * repeat->seconds, 0, 'f', 0).arg(percent_text(repeat->likeness)));
        });
    });
}

void ClipListening::chop_at_hits(ClipId id, const std::string& onto) {
    listen(id, tr("looking for hits"), recipe_of(id), [this, id, onto](const Audio& sound) -> Result<JobQueue::Delivery> {
        return JobQueue::Delivery([this, id, onto, hits = find_hits(mono_of(sound), sound.sample_rate_hz)] {
            const Remake& r = session_.remake();
            const Clip* clip = r.clips->clip(id);
            if (!clip) return;
            if (hits.empty()) {
                emit session_.told(tr("No hit stands out in %1: it is left whole.").arg(QString::fromStdString(clip->name)));
                return;
            }
            Line line("clip.chop");
            line.with("clip", clip_text(r, id)).with("hits", times_text(hits));
            if (!onto.empty()) line.with("onto", onto);
            session_.documents().run(line);
        });
    });
}

void ClipListening::retime(ClipId id, const RetimeChoice& onto) {
    const Clip* meant = session_.remake().clips->clip(id);
    if (!meant) return;
    listen(id, tr("looking for what begins in it"), before_warp(*meant), [this, id, onto](const Audio& sound) -> Result<JobQueue::Delivery> {
        return JobQueue::Delivery([this, id, onto, begins = find_beginnings(sound)] {
            const Remake& r = session_.remake();
            const Clip* clip = r.clips->clip(id);
            if (!clip) return;
            if (begins.empty()) {
                emit session_.told(tr("Nothing that stands out begins in %1: it is left as it is.").arg(QString::fromStdString(clip->name)));
                return;
            }
            session_.documents().run(retime_line(r, id, begins, onto));
        });
    });
}

std::string times_text(const std::vector<double>& times_s) {
    QStringList all;
    for (const double s : times_s) all << QString::number(1000.0 * s, 'f', 1);
    return all.join(" ").toStdString();
}

Line retime_line(const Remake& remake, ClipId clip, const std::vector<double>& begins_s, const RetimeChoice& onto, double strength) {
    Line line("clip.retime");
    line.with("clip", clip_text(remake, clip)).with("hits", times_text(begins_s)).with(onto.argument, onto.value);
    if (strength < 1.0) line.with("strength", QString::number(strength).toStdString());
    return line;
}

std::vector<RetimeChoice> retime_choices(const Song& song) {
    std::vector<RetimeChoice> choices{{ClipListening::tr("quarters"), "grid", "1/4"},
                                      {ClipListening::tr("eighths"), "grid", "1/8"},
                                      {ClipListening::tr("triplets of eighths"), "grid", "1/8T"},
                                      {ClipListening::tr("sixteenths"), "grid", "1/16"}};
    for (const Groove& g : song.grooves) choices.push_back({ClipListening::tr("the groove %1").arg(QString::fromStdString(g.name)), "groove", g.name});
    return choices;
}

void ClipListening::make_instrument(ClipId id) {
    listen(id, tr("listening for its key"), {}, [this, id](const Audio& sound) -> Result<JobQueue::Delivery> {
        const auto file = kept_as_file(sound, "instruments");
        if (!file) return file.error();
        const auto round = find_round(mono_of(sound), sound.sample_rate_hz);
        const auto loop = round ? loop_fields(*round, sound.duration_s()) : std::vector<std::pair<const char*, double>>();
        return JobQueue::Delivery([this, id, file = *file, root = find_root(sound), loop] {
            const Remake& r = session_.remake();
            const Clip* clip = r.clips->clip(id);
            if (!clip) return;
            std::string name = clip->name;
            for (int n = 2; std::any_of(r.parts.begin(), r.parts.end(), [&](const auto& p) { return same_words(p->name, name); }); ++n)
                name = clip->name + " " + std::to_string(n);
            auto& documents = session_.documents();
            const QString key = "instrument";
            documents.end_gesture();
            if (!documents.run(Line("part.add").with("name", name), key)) return;
            Line source("layer.source");
            source.with("part", name).with("source", kSampler.id).with("file", file);
            if (root) source.with("root", note_name(root->key, false)).with("tune", QString::number(-root->cents, 'f', 1).toStdString());
            for (const auto& [field, value] : loop) source.with(field, exact_text(kSampler.fields[*index_of_field(kSampler.fields, field)], value));
            documents.run(source, key);
            documents.end_gesture();
            const QString is = QString::fromStdString(name);
            emit session_.told((root ? tr("%1 is a part now; its key is %2.").arg(is, QString::fromStdString(note_name(root->key, false)))
                                     : tr("%1 is a part now; no key is clear in it: set its root by ear.").arg(is)) +
                               (loop.empty() ? tr(" It holds no place to go round: held notes end with it.") : tr(" Held notes go round in it.")));
        });
    });
}

}  // namespace fw::app
