// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/recovery.hpp"

#include "base/atomic_file.hpp"
#include "base/guard.hpp"
#include "formats/remake_file.hpp"

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QStandardPaths>
#include <QUuid>

namespace fw::app {

namespace {
constexpr int kSoon_ms = 10000;  // what is done in the time before is the most that is lost
}

Recovery::Recovery(Session& session, const QString& folder)
    : session_(session), folder_(folder.isEmpty() ? QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/recovery" : folder) {
    QDir().mkpath(folder_);
    copy_ = folder_ + "/" + QUuid::createUuid().toString(QUuid::WithoutBraces) + ".fakturwerk";
    lock_ = std::make_unique<QLockFile>(copy_ + ".lock");
    lock_->setStaleLockTime(0);  // only a program that is gone has left it, however long this one runs
    lock_->tryLock(0);
    kept_ = session_.documents().document();
    soon_.setSingleShot(true);
    soon_.setInterval(kSoon_ms);
    connect(&soon_, &QTimer::timeout, this, &Recovery::write);
    connect(&session_, &Session::document_changed, this, &Recovery::follow);
    connect(&session_, &Session::opened, this, &Recovery::follow);
}

Recovery::~Recovery() {
    if (session_.documents().unsaved() && session_.has_reference()) keep_now();
    lock_->unlock();
}

std::vector<Recovery::Left> Recovery::left_behind() const {
    std::vector<Left> out;
    for (const QFileInfo& f : QDir(folder_).entryInfoList({"*.fakturwerk"}, QDir::Files, QDir::Time)) {
        if (f.filePath() == copy_ || f.filePath() == taken_up_) continue;
        QLockFile lock(f.filePath() + ".lock");
        lock.setStaleLockTime(0);
        if (!lock.tryLock(0)) continue;  // somebody is at work on it
        lock.unlock();
        QFile note(note_file(f.filePath()));
        const QString file = note.open(QIODevice::ReadOnly) ? QString::fromUtf8(note.readAll()) : QString();
        out.push_back({f.filePath(), file, f.lastModified()});
    }
    return out;
}

void Recovery::throw_away(const Left& left) {
    for (const QString& f : {left.copy, note_file(left.copy), left.copy + ".lock"}) QFile::remove(f);
}

void Recovery::open(const Left& left) {
    taken_up_ = left.copy;
    session_.open_recovered(left.copy, left.file);
}

void Recovery::give_up() {
    soon_.stop();
    jobs_.cancel("recovery");
    kept_ = session_.documents().document();
    for (const QString& f : {copy_, note_file(copy_)}) QFile::remove(f);
    if (!taken_up_.isEmpty()) throw_away({std::exchange(taken_up_, QString()), {}, {}});
}

void Recovery::follow() {
    if (session_.provisional() || !session_.has_reference()) return;
    if (!session_.documents().unsaved()) return give_up();
    // A draft nobody has changed is made again from the recording in no time.
    if (session_.documents().file().isEmpty() && !session_.documents().history().can_undo() && taken_up_.isEmpty()) return;
    if (kept_ != session_.documents().document() && !soon_.isActive()) soon_.start();
}

void Recovery::write() {
    jobs_.run("recovery", tr("keeping a copy"), [this]() -> JobQueue::Work {
        return [this, document = session_.documents().document(), copy = copy_, file = session_.documents().file(),
                note = note_file(copy_)](const Progress&) -> Result<JobQueue::Delivery> {
            if (auto done = write_atomically(std::filesystem::path(note.toStdString()), file.toStdString()); !done) return done.error();
            if (auto done = save_remake(copy.toStdString(), *document); !done) return done.error();
            return JobQueue::Delivery([this, document] {
                kept_ = document;
                if (!taken_up_.isEmpty()) throw_away({std::exchange(taken_up_, QString()), {}, {}});
                follow();
            });
        };
    });
}

bool Recovery::keep_now() {
    soon_.stop();
    jobs_.cancel("recovery");
    if (kept_ == session_.documents().document()) return QFile::exists(copy_);
    const auto done = guarded("keeping a copy", [&]() -> Status {
        if (auto note = write_atomically(std::filesystem::path(note_file(copy_).toStdString()), session_.documents().file().toStdString()); !note) return note;
        return save_remake(copy_.toStdString(), session_.remake());
    });
    if (done) kept_ = session_.documents().document();
    return static_cast<bool>(done);
}

}  // namespace fw::app
