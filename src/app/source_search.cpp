// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/source_search.hpp"

#include "fit/find_source.hpp"

#include <QFileInfo>

namespace fw::app {

SourceSearch::SourceSearch(Session& session) : session_(session) {
    connect(&jobs_, &JobQueue::failed, &session_, &Session::failed);
    connect(&jobs_, &JobQueue::finished, this, &SourceSearch::finished);
}

void SourceSearch::look(const QString& path, double from_s, double to_s) {
    const QString name = QFileInfo(path).fileName();
    jobs_.run(
        "source", tr("looking for the stretch in %1").arg(name),
        [this, path, name, from_s, to_s, original = session_.recording().sound, of = session_.remake().reference]() -> JobQueue::Work {
            return [this, path, name, from_s, to_s, original, of](const Progress& work) -> Result<JobQueue::Delivery> {
                const auto source = read_audio(path.toStdString(), work);
                if (!source) return source.error();
                const auto place = find_source(*original, from_s, to_s, *source, work);
                if (!place) return place.error();
                return JobQueue::Delivery([this, path, name, from_s, to_s, of, place = *place, long_s = source->duration_s()] {
                    const Remake& r = session_.remake();
                    if (r.reference != of) return;  // another song was opened meanwhile
                    if (!place) {
                        emit session_.told(tr("Nothing of the stretch stands out in %1: it was not taken from there, or too little of it is heard.").arg(name));
                        return;
                    }
                    const Line line = place_source(r, path.toStdString(), long_s, r.song->tempo.nearest_tick(from_s), to_s - from_s, *place);
                    if (!session_.documents().run(line)) return;
                    emit session_.told(tr("%1 is heard there, %2: it stands among the clips now.").arg(name, QString::fromStdString(words_of(*place))));
                    emit placed();
                });
            };
        },
        [this](double fraction, std::string_view stage) {
            QMetaObject::invokeMethod(
                this,
                [this, fraction, text = QString::fromUtf8(stage.data(), static_cast<qsizetype>(stage.size()))] {
                    if (busy()) emit progress(fraction, text);
                },
                Qt::QueuedConnection);
        });
}

}  // namespace fw::app
