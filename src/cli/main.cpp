// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/analyst.hpp"
#include "formats/analysis_json.hpp"

#include <CLI/CLI.hpp>
#include <cstdio>
#include <fstream>

int main(int argc, char** argv) {
    CLI::App app{"Fakturwerk without a window"};
    std::string ref, out;
    auto* analyse = app.add_subcommand("analyse", "Hear a recording");
    analyse->add_option("REF", ref)->required();
    analyse->add_option("-o", out);
    CLI11_PARSE(app, argc, argv);
    auto a = fw::analyse(std::filesystem::path(ref));
    if (!a) return std::fprintf(stderr, "%s\n", a.error().message().c_str()), 2;
    std::ofstream(out) << fw::analysis_to_json(**a);
    return 0;
}
