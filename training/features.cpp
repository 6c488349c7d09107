// SPDX-License-Identifier: GPL-3.0-or-later
// Writes what the networks see, so that training and listening share one front end.
//   fw-features IN.wav TUNING_CENTS OUT_PREFIX   ->  OUT_PREFIX.mel (frames × 128) and OUT_PREFIX.cq (frames × 300), one byte a value
#include "audio/audio_file.hpp"
#include "dsp/constant_q.hpp"
#include "dsp/constants.hpp"
#include "dsp/mel.hpp"

#include <cstdio>
#include <cstdlib>
#include <fstream>

namespace {

void write(const std::string& path, const fw::Frames& frames, float full_scale) {
    std::ofstream out(path, std::ios::binary);
    for (Eigen::Index i = 0; i < frames.size(); ++i)
        out.put(static_cast<char>(static_cast<unsigned char>(std::min(255.0F, frames.data()[i] / full_scale * 255.0F + 0.5F))));
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 4) return std::fprintf(stderr, "usage: fw-features IN TUNING_CENTS OUT_PREFIX\n"), 2;
    auto mono = fw::read_mono(argv[1]);
    if (!mono) return std::fprintf(stderr, "%s\n", mono.error().message().c_str()), 1;
    std::vector<float> signal(mono->samples.size());
    mono->copy(0, signal);
    const std::string prefix = argv[3];
    write(prefix + ".mel", fw::MelSpectra::analyse(signal, 0, signal.size() / fw::MelSpectra::kHop), 4.0F);
    write(prefix + ".cq", fw::ConstantQ(std::atof(argv[2])).analyse(signal, 0, signal.size() / fw::ConstantQ::kHop), 2.5F);
    return 0;
}
