// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desks.hpp"

#include "app/theme.hpp"
#include "base/atomic_file.hpp"
#include "engine/plan.hpp"
#include "formats/analysis_json.hpp"
#include "formats/check_json.hpp"
#include "formats/midi_file.hpp"

#include <QCheckBox>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QSettings>
#include <QVBoxLayout>

namespace fw::app {

namespace {

struct Delivery {
    const char* name;
    const char* file;
    const char* what;
};
constexpr Delivery kDeliveries[] = {
    {"Mix", "mix.wav", "the rebuild as it sounds, 24-bit stereo, through the limiter"},
    {"Stems", "stems/", "one WAV a part at its own level, before the limiter"},
    {"MIDI", "parts.mid", "tempo map, meters, keys, section markers, a named track a part"},
    {"Analysis", "analysis.json", "what was heard in the original"},
    {"Check report", "check.json", "match by element and bar, and all findings"},
};

}  // namespace

HandOffDesk::HandOffDesk(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(28, 20, 28, 20);
    column->setSpacing(10);
    auto* title = new QLabel("What will be delivered");
    title->setFont(text_font(12, true));
    column->addWidget(title);
    for (const Delivery& d : kDeliveries) {
        auto* box = new QCheckBox(QString("%1   —   %2: %3").arg(d.name, d.file, d.what));
        box->setChecked(true);
        box->setObjectName(QString("deliver_") + d.name);
        connect(box, &QCheckBox::toggled, this, &HandOffDesk::follow);
        choices_.push_back(box);
        column->addWidget(box);
    }
    auto* where = new QHBoxLayout;
    folder_ = new QLabel;
    folder_->setFont(figure_font(9));
    folder_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    auto* choose = new QPushButton("Choose folder…");
    choose->setToolTip("Where the files go");
    connect(choose, &QPushButton::clicked, this, [this] {
        const QString chosen = QFileDialog::getExistingDirectory(this, "Folder for the hand-off", folder_->text());
        if (!chosen.isEmpty()) QSettings().setValue("hand_off_folder", chosen), follow();
    });
    where->addWidget(new QLabel("Into"));
    where->addWidget(folder_, 1);
    where->addWidget(choose);
    column->addLayout(where);
    preview_ = new QLabel;
    preview_->setObjectName("heading");
    preview_->setWordWrap(true);
    column->addWidget(preview_);
    auto* row = new QHBoxLayout;
    go_ = new QPushButton("Deliver");
    go_->setToolTip("Write the chosen files (Ctrl+E)");
    connect(go_, &QPushButton::clicked, this, [this] { deliver(folder_->text()); });
    cancel_ = new QPushButton("Stop");
    cancel_->setEnabled(false);
    cancel_->setToolTip("Stop writing; finished files stay");
    connect(cancel_, &QPushButton::clicked, this, [this] {
        if (job_progress_) job_progress_->cancel();
    });
    progress_ = new QProgressBar;
    progress_->setRange(0, 1000);
    progress_->setTextVisible(false);
    row->addWidget(go_);
    row->addWidget(cancel_);
    row->addWidget(progress_, 1);
    column->addLayout(row);
    message_ = new QLabel;
    message_->setWordWrap(true);
    column->addWidget(message_);
    column->addStretch(1);
    connect(this, &HandOffDesk::done, this, [this](bool, const QString& sentence) {
        message_->setText(sentence);
        go_->setEnabled(true);
        cancel_->setEnabled(false);
    });
    connect(&session_, &Session::document_changed, this, &HandOffDesk::follow);
    follow();
}

HandOffDesk::~HandOffDesk() {
    if (job_progress_) job_progress_->cancel();
    if (job_.joinable()) job_.join();
}

void HandOffDesk::follow() {
    const Remake& r = session_.remake();
    const QString stem =
        session_.file().isEmpty() ? QFileInfo(QString::fromStdString(r.reference.path)).completeBaseName() : QFileInfo(session_.file()).completeBaseName();
    const QString base = QSettings().value("hand_off_folder", QDir::homePath()).toString();
    folder_->setText(QDir(base).filePath(stem.isEmpty() ? QString("hand-off") : stem + " hand-off"));
    bool any = false;
    for (const auto* box : choices_) any = any || box->isChecked();
    go_->setEnabled(session_.has_reference() && !session_.provisional() && any && !(job_progress_ && cancel_->isEnabled()));
    if (!session_.has_reference()) {
        preview_->setText("Open a recording first; then choose what to hand over.");
        return;
    }
    QStringList names;
    for (const auto& part : r.parts) names << QString::fromStdString(part->name);
    preview_->setText(QString("%1, %2, %3 sections, %4 chords; parts: %5.")
                          .arg(time_text(r.reference.duration_s), QString::fromStdString(r.tempo_text()))
                          .arg(r.sections.size())
                          .arg(r.chords.size())
                          .arg(names.join(", ")));
}

void HandOffDesk::deliver(const QString& folder) {
    if (job_.joinable()) job_.join();
    go_->setEnabled(false);
    cancel_->setEnabled(true);
    message_->setText("Writing…");
    std::vector<bool> wanted;
    for (const auto* box : choices_) wanted.push_back(box->isChecked());
    job_progress_ = std::make_unique<Progress>([this](double f, std::string_view) {
        QMetaObject::invokeMethod(
            progress_, [this, f] { progress_->setValue(static_cast<int>(f * 1000)); }, Qt::QueuedConnection);
    });
    job_ = std::thread([this, wanted, folder = std::filesystem::path(folder.toStdString()), document = session_.document(), analysis = session_.analysis(),
                        original = session_.original(), whole = job_progress_.get()] {
        int files = 0;
        const auto work = [&]() -> Status {
            std::error_code ec;
            std::filesystem::create_directories(folder, ec);
            if (ec) return Error{ErrorCode::FolderUnwritable, folder.string(), ec.message()};
            const auto plan = compile_plan(*document, 44100.0);
            const double steps = 1.0 + (wanted[1] ? static_cast<double>(document->parts.size()) : 0.0);
            double at = 0.0;
            const auto stage = [&] {
                const double from = at / steps, to = (at + 1.0) / steps;
                at += 1.0;
                return Progress([whole, from, to](double f, std::string_view what) { whole->report(from + (to - from) * f, what); }, whole);
            };
            Result<Audio> mix = Audio{};
            if (wanted[0] || wanted[4]) {
                const Progress p = stage();
                mix = render_offline(*plan, p);
                if (!mix) return mix.error();
            }
            if (wanted[0]) {
                if (auto s = write_audio(folder / "mix.wav", *mix); !s) return s;
                ++files;
            }
            if (wanted[1]) {
                std::filesystem::create_directories(folder / "stems", ec);
                int number = 1;
                for (const auto& part : document->parts) {
                    const Progress p = stage();
                    auto stem = render_offline(*plan, p, part->id);
                    if (!stem) return stem.error();
                    QString name = QString("%1 %2.wav").arg(number++, 2, 10, QChar('0')).arg(QString::fromStdString(part->name).replace('/', '-'));
                    if (auto s = write_audio(folder / "stems" / name.toStdString(), *stem); !s) return s;
                    ++files;
                }
            }
            if (wanted[2]) {
                if (auto s = write_midi(folder / "parts.mid", *document); !s) return s;
                ++files;
            }
            if (wanted[3] && analysis) {
                if (auto s = write_atomically(folder / "analysis.json", analysis_to_json(*analysis)); !s) return s;
                ++files;
            }
            if (wanted[4] && analysis && original) {
                if (auto s = write_atomically(folder / "check.json", check_to_json(check(*document, *analysis, original.get(), &*mix))); !s) return s;
                ++files;
            }
            whole->report(1.0, "done");
            return Done{};
        };
        Status result = [&]() -> Status {
            try {
                return work();
            } catch (const Cancelled&) {
                return Error{ErrorCode::Cancelled, "the hand-off", {}};
            }
        }();
        const QString sentence =
            result ? QString("%1 files are in %2.").arg(files).arg(QString::fromStdString(folder.string())) : QString::fromStdString(result.error().message());
        QMetaObject::invokeMethod(
            this, [this, ok = result.ok(), sentence] { emit done(ok, sentence); }, Qt::QueuedConnection);
    });
}

}  // namespace fw::app
