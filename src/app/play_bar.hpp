// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/hum.hpp"
#include "app/session.hpp"

#include <QWidget>

class QCheckBox;
class QComboBox;
class QHBoxLayout;
class QPushButton;

namespace fw::app {

class NumberField;

/// What is played on, recording, and the takes; and the computer's keys while they are played on.
class PlayBar final : public QWidget {
    Q_OBJECT

public:
    explicit PlayBar(Session& session, QWidget* parent = nullptr);
    /// Keys pressed in these widgets play while the computer's keys are listened to.
    void listen_in(QWidget& widget);
    /// How many semitones above the octave's C a key of the computer stands; none for others.
    static std::optional<int> semitone_of(int key);
    /// Writes what a voice in a file sings, as a take, once a job has listened to it.
    void hear_voice(const QString& path);

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;

private:
    void follow();
    void choose(int index);
    void play_file();
    void take_voice(const QString& path, double at_s, const Hummed& hummed);
    void let_voice_sound(bool on);

    Session& session_;
    QComboBox* source_ = nullptr;
    NumberField* latency_ = nullptr;
    QPushButton *record_ = nullptr, *voice_ = nullptr;
    QString voice_file_;  ///< what was hummed last
    double voice_at_s_ = 0.0, voice_s_ = 0.0;
    QCheckBox* steps_ = nullptr;
    QHBoxLayout* takes_ = nullptr;
    JobQueue jobs_;
};

}  // namespace fw::app
