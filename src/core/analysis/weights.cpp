// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/weights.hpp"

// The assembler takes the files in as they are: no generated source, no file to find at run time.
asm(".section .rodata\n"
    ".balign 16\nfw_pulse_begin: .incbin \"" FW_WEIGHTS_DIR
    "/pulse.fwnn\"\nfw_pulse_end:\n"
    ".balign 16\nfw_pitch_begin: .incbin \"" FW_WEIGHTS_DIR
    "/pitch.fwnn\"\nfw_pitch_end:\n"
    ".balign 16\nfw_judge_begin: .incbin \"" FW_WEIGHTS_DIR
    "/judge.fwnn\"\nfw_judge_end:\n"
    ".globl fw_pulse_begin, fw_pulse_end, fw_pitch_begin, fw_pitch_end, fw_judge_begin, fw_judge_end\n"
    ".text\n");

extern "C" const unsigned char fw_pulse_begin[], fw_pulse_end[], fw_pitch_begin[], fw_pitch_end[], fw_judge_begin[], fw_judge_end[];

namespace fw {

std::span<const unsigned char> pulse_weights() noexcept { return {fw_pulse_begin, fw_pulse_end}; }
std::span<const unsigned char> pitch_weights() noexcept { return {fw_pitch_begin, fw_pitch_end}; }
std::span<const unsigned char> judge_weights() noexcept { return {fw_judge_begin, fw_judge_end}; }

}  // namespace fw
