// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QCoreApplication>
#include <QString>
#include <string>

namespace fw::app {

/// A text in the user's language, where there is no QObject whose own tr() would do. What the core words — findings, errors, names of fields — goes through
/// it as it is shown.
inline QString tr(const char* text) { return QCoreApplication::translate("fw", text); }
inline QString of_core(const std::string& text) { return tr(text.c_str()); }

}  // namespace fw::app
