// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/kept_file.hpp"

#include <QCryptographicHash>
#include <QDir>
#include <QStandardPaths>

namespace fw::app {

Result<std::string> kept_as_file(const Audio& sound, const char* folder) {
    const QString where = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/" + folder;
    QDir().mkpath(where);
    const QByteArrayView samples(reinterpret_cast<const char*>(sound.samples.data()), static_cast<qsizetype>(sound.samples.size() * sizeof(float)));
    const auto hash = QCryptographicHash::hash(samples, QCryptographicHash::Sha1);
    std::string file = (where + "/" + QString::fromLatin1(hash.toHex().left(16)) + ".wav").toStdString();
    if (const auto written = write_audio(file, sound); !written) return written.error();
    return file;
}

}  // namespace fw::app
