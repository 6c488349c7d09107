// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"

#include <QDateTime>
#include <QLockFile>
#include <QObject>
#include <QTimer>
#include <memory>
#include <vector>

namespace fw::app {

/// Keeps what is not saved, so that it is there again when the program ended without being asked: a copy in the user's data folder, written by a job some
/// seconds after an edit, gone once the document is saved or given up.
///
/// Lives in the window's thread. Several programs share the folder; each keeps a file of its own under a lock that dies with it.
class Recovery final : public QObject {
    Q_OBJECT

public:
    /// folder: empty for the user's own.
    explicit Recovery(Session& session, const QString& folder = {});
    /// What is unsaved stays, for it was not given up: it is offered when the program starts next.
    ~Recovery() override;

    /// Work that a program left which is gone.
    struct Left {
        QString copy;  ///< the file here
        QString file;  ///< where it was saved last; empty for never
        QDateTime when;
    };
    std::vector<Left> left_behind() const;
    void throw_away(const Left& left);
    /// Opens what was left: it counts as unsaved and belongs where it was saved last.
    void open(const Left& left);

    /// The user gives up what is not saved.
    void give_up();
    /// Writes now what would be written soon; true where a copy of the present document is there.
    bool keep_now();

private:
    void follow();
    void write();
    void remove_copy();

    Session& session_;
    QString folder_, copy_;
    std::unique_ptr<QLockFile> lock_;
    QTimer soon_;
    std::shared_ptr<const Remake> kept_;  ///< what the copy holds, or what was given up
    QString taken_up_;                    ///< the copy that what is open came from: it goes once there is another
    bool given_up_ = false;               ///< no copy is wanted of what is there now
    std::unique_ptr<JobQueue> jobs_;
};

}  // namespace fw::app
