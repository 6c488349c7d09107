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

/// Beside a copy stands where its remake was saved last.
QString note_file(const QString& copy) { return copy + ".txt"; }

Status keep(const Remake& remake, const QString& copy, const QString& file) {
    if (auto note = write_atomically(std::filesystem::path(note_file(copy).toStdString()), file.toStdString()); !note) return note;
    return save_remake(copy.toStdString(), remake);
}

}  // namespace

Recovery::Recovery(Session& session, const QString& folder)
    : session_(session), folder_(folder.isEmpty() ? QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/recovery" : folder) {
    QDir().mkpath(folder_);
    copy_ = folder_ + "/" + QUuid::createUuid().toString(QUuid::WithoutBraces) + ".fakturwerk";
    lock_ = std::make_unique<QLockFile>(copy_ + ".lock");
    lock_->setStaleLockTime(0);  // only a program that is gone has left it, however long this one runs
    lock_->tryLock(0);
    jobs_ = std::make_unique<JobQueue>();
    kept_ = session_.documents().document();
    soon_.setSingleShot(true);
    soon_.setInterval(kSoon_ms);
    connect(&soon_, &QTimer::timeout, this, &Recovery::write);
    connect(&session_, &Session::document_changed, this, &Recovery::follow);
    connect(&session_, &Session::opened, this, [this] {
        // Only now is what was left taken up: until it is open nothing may take its copy away.
        taken_up_ = session_.recovered_from();
        follow();
    });
}

Recovery::~Recovery() {
    jobs_.reset();  // waits: what is being written may be older than what is there now, or given up by now
    if (given_up_) remove_copy();
    else if (session_.documents().unsaved() && session_.has_reference()) keep_now();
    lock_->unlock();
}

void Recovery::remove_copy() {
    for (const QString& f : {copy_, note_file(copy_)}) QFile::remove(f);
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

void Recovery::open(const Left& left) { session_.open_recovered(left.copy, left.file); }

void Recovery::give_up() {
    soon_.stop();
    given_up_ = true;
    kept_ = session_.documents().document();
    remove_copy();
    if (!taken_up_.isEmpty()) throw_away({std::exchange(taken_up_, QString()), {}, {}});
}

void Recovery::follow() {
    if (session_.provisional() || !session_.has_reference()) return;
    if (!session_.documents().unsaved()) return give_up();
    // A draft nobody has changed is made again from the recording in no time.
    if (session_.documents().file().isEmpty() && !session_.documents().history().can_undo() && taken_up_.isEmpty()) return;
    if (kept_ == session_.documents().document()) return;
    given_up_ = false;
    if (!soon_.isActive()) soon_.start();
}

void Recovery::write() {
    jobs_->run(
        "recovery", tr("keeping a copy"),
        [this]() -> JobQueue::Work {
            return [this, document = session_.documents().document(), copy = copy_,
                    file = session_.documents().file()](const Progress&) -> Result<JobQueue::Delivery> {
                if (auto done = keep(*document, copy, file); !done) return done.error();
                return JobQueue::Delivery([this, document] {
                    if (given_up_) return remove_copy();
                    kept_ = document;
                    if (!taken_up_.isEmpty()) throw_away({std::exchange(taken_up_, QString()), {}, {}});
                    follow();
                });
            };
        },
        {}, JobQueue::Pace::Patient);
}

bool Recovery::keep_now() {
    soon_.stop();
    if (kept_ == session_.documents().document()) return QFile::exists(copy_);
    const auto done = guarded("keeping a copy", [&] { return keep(*session_.documents().document(), copy_, session_.documents().file()); });
    if (done) kept_ = session_.documents().document();
    return static_cast<bool>(done);
}

}  // namespace fw::app
