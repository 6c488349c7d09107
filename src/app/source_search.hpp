// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"

namespace fw::app {

/// Looks in a recording for what a stretch of the original was taken from, and puts it into the song where it is found.
///
/// Lives in the window's thread.
class SourceSearch final : public QObject {
    Q_OBJECT

public:
    explicit SourceSearch(Session& session);
    /// path: the recording it may come from; the stretch in seconds of the original.
    void look(const QString& path, double from_s, double to_s);
    void cancel() { jobs_.cancel("source"); }
    bool busy() const { return jobs_.busy("source"); }

signals:
    void progress(double fraction, const QString& stage);
    /// The search is over, with or without something found.
    void finished();
    /// A clip of the source stands in the song.
    void placed();

private:
    Session& session_;
    JobQueue jobs_;
};

}  // namespace fw::app
