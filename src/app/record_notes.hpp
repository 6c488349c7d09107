// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"

#include <QDialog>
#include <optional>
#include <vector>

class QListWidget;
class QPlainTextEdit;

namespace fw::app {

/// What was found out about how the record was made: words, links and pictures, kept with the remake. Nothing is done before it is accepted.
class RecordNotes final : public QDialog {
    Q_OBJECT

public:
    explicit RecordNotes(Session& session, QWidget* parent = nullptr);
    /// Puts a picture beside the others; a sentence where the file is no picture.
    std::optional<QString> add_picture(const QString& path);
    void accept() override;

private:
    void ask_for_picture();
    void fill();
    void show_large(int row);

    Session& session_;
    std::vector<Picture> pictures_;
    std::size_t kept_ = 0;                 ///< so many of them were there before, less those taken away
    std::vector<std::size_t> taken_away_;  ///< places of pictures as they were, descending
    std::vector<std::size_t> places_;      ///< of the first kept_ ones, as they were
    QPlainTextEdit* words_ = nullptr;
    QListWidget* shelf_ = nullptr;
};

}  // namespace fw::app
