// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/place_sound.hpp"

#include "app/words.hpp"
#include "audio/audio_file.hpp"
#include "model/limits.hpp"

#include <QFileInfo>
#include <algorithm>

namespace fw::app {

bool place_sound(Session& session, const QString& path, Ticks at) {
    const auto reader = AudioReader::open(path.toStdString());
    if (!reader) {
        emit session.failed(of_core(reader.error().message()));
        return false;
    }
    const double rate = (*reader)->sample_rate_hz(), longest_s = limits::kAsset_s;
    auto frames = static_cast<double>((*reader)->stated_frames());
    // A length the file does not tell is found by reading it.
    for (std::vector<float> block(8192); frames <= 0.0 || (*reader)->stated_frames() <= 0;) {
        const std::size_t got = (*reader)->read(block);
        frames += static_cast<double>(got);
        if (got == 0 || frames > longest_s * rate) break;
    }
    const double seconds = std::min(longest_s, frames / rate);
    if (seconds < 0.001) {
        emit session.failed(session.tr("%1 holds no sound: choose another file.").arg(QFileInfo(path).fileName()));
        return false;
    }
    return session.documents().run(Line("clip.from-file")
                                       .with("file", QFileInfo(path).absoluteFilePath().toStdString())
                                       .with("to", place_text(session.remake().song->meter, std::max<Ticks>(0, at)))
                                       .with("seconds", QString::number(seconds, 'f', 4).toStdString())
                                       .with("name", QFileInfo(path).completeBaseName().toStdString()));
}

}  // namespace fw::app
