// SPDX-License-Identifier: GPL-3.0-or-later
// The process in which LV2 plug-ins are looked through and run: what crashes or hangs here leaves the program that asked as it was.
//   fakturwerk-plug-in-host scan            writes what there is, a line each with tabs between its cells
//   fakturwerk-plug-in-host presets [URI]   writes the presets of one, or of all, the same way
//   fakturwerk-plug-in-host run URI RATE PROGRAM STATE FILE    runs one on the memory under descriptor 3 for as long as the process PROGRAM lives
//       (sound/plug_ins/wire.hpp); STATE: "state" where a state of its own lies under descriptor 4, else "-"; FILE: a file it is given to play, or "-"
#include "plug_in_host/world.hpp"
#include "sound/plug_ins/wire.hpp"

#include <sys/stat.h>
#include <unistd.h>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <string>

namespace {

using fw::PlugInWire;

/// All of what lies under the descriptor a state is handed over by.
std::string handed_state() {
    struct stat about {};
    if (::fstat(PlugInWire::kStateDescriptor, &about) != 0 || about.st_size <= 0 || about.st_size > static_cast<off_t>(PlugInWire::kMostState)) return {};
    std::string text(static_cast<std::size_t>(about.st_size), ' ');
    return ::pread(PlugInWire::kStateDescriptor, text.data(), text.size(), 0) == about.st_size ? text : std::string();
}

}  // namespace

int main(int argc, char** argv) {
    if (argc == 2 && std::strcmp(argv[1], "scan") == 0) {
        fw::host::scan();
        return 0;
    }
    if ((argc == 2 || argc == 3) && std::strcmp(argv[1], "presets") == 0) return fw::host::presets(argc == 3 ? argv[2] : nullptr);
    if (argc == 7 && std::strcmp(argv[1], "run") == 0)
        return fw::host::run(argv[2], std::atof(argv[3]), static_cast<pid_t>(std::atol(argv[4])),
                             std::strcmp(argv[5], "state") == 0 ? handed_state() : std::string(),
                             std::strcmp(argv[6], "-") == 0 ? std::string() : std::string(argv[6]));
    std::fputs("fakturwerk-plug-in-host is started by Fakturwerk itself: fakturwerk-plug-in-host scan | presets [URI] | run URI RATE PROGRAM STATE FILE\n",
               stderr);
    return 2;
}
