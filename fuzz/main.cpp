// SPDX-License-Identifier: GPL-3.0-or-later
// Tries a reader with hostile inputs: fw-fuzz TARGET [--count N | --seconds S] [--seed K] [--input FILE]. Each input is kept on disk while it is tried,
// so that one that ends the program is there to be looked at. Exit 0 when all were survived within the limits, 1 when not, 2 for wrong usage.
#include "mutate.hpp"
#include "targets.hpp"

#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>
#include <algorithm>
#include <chrono>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <fstream>
#include <iterator>

namespace {

using Clock = std::chrono::steady_clock;

constexpr double kLongest_s = 10.0;
constexpr long kMost_kB = 1'000'000;  // with the sanitizers' own share

double seconds_since(Clock::time_point begin) { return std::chrono::duration<double>(Clock::now() - begin).count(); }

int try_inputs(const fw::fuzz::Target& target, std::uint64_t count, double seconds, unsigned seed, const std::string& kept) {
    fw::fuzz::Mutator mutator(target.seeds(), seed);
    const auto begin = Clock::now();
    std::uint64_t tried = 0, taken = 0;
    double longest_s = 0.0;
    while (tried < count && seconds_since(begin) < seconds) {
        const std::string input = mutator.next();
        std::ofstream(kept, std::ios::binary | std::ios::trunc) << input;
        ::alarm(static_cast<unsigned>(2 * kLongest_s));  // an endless one is ended by the signal
        const auto one = Clock::now();
        if (target.run(input)) {
            ++taken;
            mutator.keep(input);
        }
        const double took_s = seconds_since(one);
        ++tried;
        longest_s = std::max(longest_s, took_s);
        if (took_s > kLongest_s) {
            std::printf("%s: an input took %.1f s\n", target.name, took_s);
            return 1;
        }
    }
    rusage usage{};
    ::getrusage(RUSAGE_SELF, &usage);
    std::printf("%s: %llu inputs tried, %llu taken, longest %.2f s, peak %ld MB, seed %u\n", target.name, static_cast<unsigned long long>(tried),
                static_cast<unsigned long long>(taken), longest_s, usage.ru_maxrss / 1000, seed);
    return usage.ru_maxrss > kMost_kB ? 1 : 0;
}

}  // namespace

int main(int argc, char** argv) {
    std::uint64_t count = UINT64_MAX;
    double seconds = 1e9;
    unsigned seed = 1;
    std::string input;
    const fw::fuzz::Target* target = nullptr;
    for (const auto& t : fw::fuzz::targets())
        if (argc > 1 && std::strcmp(argv[1], t.name) == 0) target = &t;
    bool understood = target && argc % 2 == 0;
    for (int i = 2; understood && i + 1 < argc; i += 2) {
        const std::string option = argv[i];
        if (option == "--count") count = std::strtoull(argv[i + 1], nullptr, 10);
        else if (option == "--seconds") seconds = std::strtod(argv[i + 1], nullptr);
        else if (option == "--seed") seed = static_cast<unsigned>(std::strtoul(argv[i + 1], nullptr, 10));
        else if (option == "--input") input = argv[i + 1];
        else understood = false;
    }
    if (!understood) {
        std::fprintf(stderr, "usage: fw-fuzz recording|midi|remake [--count N] [--seconds S] [--seed K] [--input FILE]\n");
        return 2;
    }
    if (!input.empty()) {
        std::ifstream in(input, std::ios::binary);
        const bool taken = target->run({std::istreambuf_iterator<char>(in), {}});
        std::printf("%s: %s\n", input.c_str(), taken ? "taken" : "refused");
        return 0;
    }
    const char* folder = std::getenv("TMPDIR");
    const std::string kept = std::string(folder ? folder : "/tmp") + "/fw-fuzz-" + target->name + "-" + std::to_string(::getpid());
    std::fflush(stdout);
    const pid_t child = ::fork();
    if (child == 0) {
        const int result = try_inputs(*target, count, seconds, seed, kept);
        std::fflush(stdout);
        std::exit(result);
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    if (WIFEXITED(status) && WEXITSTATUS(status) == 0) {
        ::unlink(kept.c_str());
        return 0;
    }
    std::printf("%s: FAILED; the input is in %s, try it with --input\n", target->name, kept.c_str());
    return 1;
}
