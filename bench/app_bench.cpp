// SPDX-License-Identifier: GPL-3.0-or-later
// How long each view takes to paint at 1280×800, and how soon the window is up. Figures go to docs/performance.md.
#include "app/desks.hpp"
#include "app/main_window.hpp"
#include "app/theme.hpp"

#include <QApplication>
#include <QEventLoop>
#include <QTimer>
#include <algorithm>
#include <benchmark/benchmark.h>
#include <chrono>

namespace {

using namespace fw;
using namespace fw::app;
using Clock = std::chrono::steady_clock;

Session* session = nullptr;
MainWindow* window = nullptr;
double window_up_s = 0.0;

void Paint(benchmark::State& state, Desk desk, const char* element) {
    session->select_element(element);
    for (const auto& p : session->remake().parts)
        if (QString(element) == QString("role:%1").arg(part_role_name(p->role))) session->select_element(QString("part:%1").arg(p->id));
    window->show_desk(desk);
    QApplication::processEvents();
    std::vector<double> took;
    QImage image(window->size(), QImage::Format_ARGB32_Premultiplied);
    int step = 0;
    for (auto _ : state) {
        if (auto* view = window->transcribe()->current()) view->show_from(5.0 + (++step % 80));
        const auto begun = Clock::now();
        window->render(&image);
        took.push_back(std::chrono::duration<double>(Clock::now() - begun).count());
    }
    std::sort(took.begin(), took.end());
    state.counters["p95_ms"] = took[took.size() * 95 / 100] * 1000;
    state.counters["window_up_s"] = window_up_s;
}
BENCHMARK_CAPTURE(Paint, survey, Desk::Survey, "tempo")->Iterations(200)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, transcribe_notes, Desk::Transcribe, "role:lead")->Iterations(200)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, transcribe_drums, Desk::Transcribe, "role:drums")->Iterations(200)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, transcribe_chords, Desk::Transcribe, "chords")->Iterations(200)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, rebuild, Desk::Rebuild, "role:bass")->Iterations(200)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, check, Desk::Check, "role:bass")->Iterations(200)->Unit(benchmark::kMillisecond);

void wait_until(const std::function<bool()>& ready) {
    QEventLoop loop;
    QTimer timer;
    QObject::connect(&timer, &QTimer::timeout, [&] {
        if (ready()) loop.quit();
    });
    timer.start(50);
    loop.exec();
}

}  // namespace

int main(int argc, char** argv) {
    const auto begun = Clock::now();
    QApplication app(argc, argv);
    QApplication::setApplicationName("fakturwerk-bench");
    QApplication::setOrganizationName("fakturwerk-bench");
    QApplication::setStyle("Fusion");
    apply_theme();
    Session s(std::make_unique<SimulatedOutput>(44100.0));
    MainWindow w(s);
    session = &s;
    window = &w;
    w.resize(1280, 800);
    w.show();
    QApplication::processEvents();
    window_up_s = std::chrono::duration<double>(Clock::now() - begun).count();
    w.open(QString(FW_DEMO_DIR) + "/lantern-ferry.ogg");
    wait_until([&] { return s.has_reference() && !s.busy() && s.rebuild_is_current(); });
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    return 0;
}
