// SPDX-License-Identifier: GPL-3.0-or-later
// How long each view takes to paint at 1280×800, and how soon the window and a first look are up. Figures go to docs/performance.md.
#include "app/desks.hpp"
#include "app/facts_panel.hpp"
#include "app/main_window.hpp"
#include "app/page_view.hpp"
#include "app/theme.hpp"
#include "repeated_demo.hpp"

#include <benchmark/benchmark.h>
#include <QApplication>
#include <QEventLoop>
#include <QScrollBar>
#include <QTimer>
#include <algorithm>
#include <chrono>
#include <map>

namespace {

using namespace fw;
using namespace fw::app;
using Clock = std::chrono::steady_clock;

Session* session = nullptr;
MainWindow* window = nullptr;
double window_up_s = 0.0;

void wait_until(const std::function<bool()>& ready) {
    QEventLoop loop;
    QTimer timer;
    QObject::connect(&timer, &QTimer::timeout, [&] {
        if (ready()) loop.quit();
    });
    timer.start(5);
    loop.exec();
}

/// From the wish to open a file of four minutes until waveform, tempo, beats and drums are painted.
void FirstLookAtFourMinutes(benchmark::State& state) {
    const auto file = std::filesystem::temp_directory_path() / "fw-bench-four.flac";
    (void)write_audio(file, repeated_demo(4));
    window->show_desk(Desk::Survey);
    session->set_evidence_store({});  // a recording nobody has listened to before
    for (auto _ : state) {
        const auto before = session->recording().analysis;
        const auto begun = Clock::now();
        session->open_recording(QString::fromStdString(file.string()));
        wait_until([&] { return session->recording().analysis != before; });
        window->repaint();
        state.SetIterationTime(std::chrono::duration<double>(Clock::now() - begun).count());
        session->cancel_job();
        wait_until([] { return !session->busy(); });
    }
    std::filesystem::remove(file);
}

/// From the wish to open the remake of a recording of ten minutes that was heard before until it is painted; `sound` after what time it can be heard, too.
void OpenKnownTenMinutes(benchmark::State& state) {
    const auto folder = std::filesystem::temp_directory_path() / "fw-bench-ten";
    std::filesystem::create_directories(folder);
    const auto file = folder / "ten.flac", remake = folder / "ten.fakturwerk";
    (void)write_audio(file, repeated_demo(10));
    session->set_evidence_store(EvidenceStore(folder / "evidence"));
    const auto before = session->recording().analysis;
    session->open_recording(QString::fromStdString(file.string()));
    wait_until([&] { return session->recording().analysis != before && !session->busy(); });
    (void)session->documents().save(QString::fromStdString(remake.string()));
    double sound_s = 0.0;
    for (auto _ : state) {
        const auto known = session->recording().analysis;
        const auto begun = Clock::now();
        session->open_remake(QString::fromStdString(remake.string()));
        wait_until([&] { return session->recording().analysis != known; });
        window->repaint();
        state.SetIterationTime(std::chrono::duration<double>(Clock::now() - begun).count());
        wait_until([] { return session->recording().sound && !session->busy(); });
        sound_s = std::max(sound_s, std::chrono::duration<double>(Clock::now() - begun).count());
    }
    state.counters["sound_s"] = sound_s;
    std::filesystem::remove_all(folder);
}

/// Of the page of ten minutes: one frame after a turn of the wheel, every fifth after coming nearer or going farther. A sixtieth of a second is 16.7 ms.
void ScrollAndZoomTheirPage(benchmark::State& state) {
    window->show_desk(Desk::Survey);
    QApplication::processEvents();
    PageView* page = window->page();
    QImage image(page->viewport()->size(), QImage::Format_ARGB32_Premultiplied);
    std::vector<double> took;
    int step = 0;
    for (auto _ : state) {
        const auto begun = Clock::now();
        if (++step % 5 == 0) page->zoom(step % 50 < 25 ? 1 : -1);
        else page->verticalScrollBar()->setValue((page->verticalScrollBar()->value() + 120) % std::max(1, page->verticalScrollBar()->maximum()));
        page->viewport()->render(&image);
        took.push_back(std::chrono::duration<double>(Clock::now() - begun).count() * 1000);
    }
    page->zoom_to_usual();
    std::sort(took.begin(), took.end());
    state.counters["p95_ms"] = took[took.size() * 95 / 100];
    state.counters["rows"] = static_cast<double>(page->rows().size());
}

/// Notes how long the window's thread is busy with each event.
class TimedApplication final : public QApplication {
public:
    using QApplication::QApplication;
    bool notify(QObject* to, QEvent* e) override {
        if (inside_) return QApplication::notify(to, e);
        inside_ = true;
        const auto begun = Clock::now();
        const bool taken = QApplication::notify(to, e);
        busy_ms.push_back(std::chrono::duration<double>(Clock::now() - begun).count() * 1000);
        inside_ = false;
        return taken;
    }
    static inline std::vector<double> busy_ms;

private:
    bool inside_ = false;
};

/// Tells whether a view was painted.
struct Painted : QObject {
    bool seen = false;
    bool eventFilter(QObject*, QEvent* e) override {
        seen = seen || e->type() == QEvent::Paint;
        return false;
    }
};

/// Twenty thousand notes in the part that is shown large, over ten minutes: a note moved, from the key until the window has drawn it, all that follows in the
/// window's thread included; `heard` until the player has a plan with it. And a frame after a turn of the wheel over them.
void EditAmong20000Notes(benchmark::State& state) {
    Note n;
    std::vector<Note> notes;
    for (int i = 0; i < 20000; ++i) {
        n.start = i / 4 * 240, n.length = 200 + i % 300, n.pitch = 40 + i * 7 % 40, n.velocity = 1 + i % 127, n.origin = Origin::Imported;
        notes.push_back(n);
    }
    const PartId id = session->remake().parts.front()->id;
    Remake many = session->remake();
    for (auto& p : many.parts)
        if (p->id == id) {
            Part& part = p.edit();
            part.patterns.clear(), part.placements.clear(), part.next_id = 1;
            Pattern all;
            all.id = PatternId(part.next_id++);
            all.letter = "A";
            all.length = 5000 * 240;
            all.notes = notes;
            sort_notes(all.notes);
            part.placements = {{all.id, 0, false, PlacementId(part.next_id++), {}}};
            part.patterns = {std::move(all)};
            part.number_all();
        }
    session->documents().edit(std::move(many), "many");
    session->selection().select_element(id);
    window->show_desk(Desk::Transcribe);
    wait_until([] { return session->settled(); });
    NoteCloseUp* view = window->transcribe()->notes();
    Painted painted;
    view->installEventFilter(&painted);
    const auto placed = placed_notes(*session->remake().part(id));
    std::vector<double> drawn, heard, scrolled, commanded;
    TimedApplication::busy_ms.clear();
    int k = 0;
    for (auto _ : state) {
        session->selection().select_notes({placed[static_cast<std::size_t>(1000 + 37 * (++k % 400))].ref()});
        painted.seen = false;
        view->show_from(60.0);
        wait_until([&] { return painted.seen && session->settled() && !window->facts()->pending(); });
        const auto rests_until = Clock::now() + std::chrono::milliseconds(60);  // the hand, while what follows a scroll is painted
        wait_until([&] { return Clock::now() >= rests_until; });
        painted.seen = false;
        auto begun = Clock::now();
        window->transcribe()->transpose(k % 2 ? 1 : -1);
        TimedApplication::busy_ms.push_back(std::chrono::duration<double>(Clock::now() - begun).count() * 1000);
        commanded.push_back(TimedApplication::busy_ms.back());
        QApplication::processEvents();
        if (!painted.seen) window->repaint();
        drawn.push_back(std::chrono::duration<double>(Clock::now() - begun).count() * 1000);
        wait_until([] { return session->settled(); });
        heard.push_back(std::chrono::duration<double>(Clock::now() - begun).count() * 1000);
        QApplication::processEvents();
        begun = Clock::now();
        view->show_from(60.0 + k % 300);
        view->repaint();
        scrolled.push_back(std::chrono::duration<double>(Clock::now() - begun).count() * 1000);
    }
    const auto p95 = [](std::vector<double>& v) {
        std::sort(v.begin(), v.end());
        return v[v.size() * 95 / 100];
    };
    state.counters["drawn_p95_ms"] = p95(drawn);
    std::sort(commanded.begin(), commanded.end());
    state.counters["commanded_median_ms"] = commanded[commanded.size() / 2];
    state.counters["drawn_median_ms"] = drawn[drawn.size() / 2];
    // Of all that took longer than a tenth of a millisecond: thousands of timers that find nothing to do would hide the rest.
    std::vector<double>& busy = TimedApplication::busy_ms;
    std::erase_if(busy, [](double ms) { return ms < 0.1; });
    std::sort(busy.begin(), busy.end());
    state.counters["window_busy_p99_ms"] = busy[busy.size() * 99 / 100];
    state.counters["longest_ms"] = busy.back();
    state.counters["planned_and_checked_p95_ms"] = p95(heard);
    state.counters["scroll_p95_ms"] = p95(scrolled);
}

/// What is drawn for a frame: all views anew, as after an edit or while scrolling, or only what the playhead touches, as while playing.
enum class Frame { Anew, Playing };

void Paint(benchmark::State& state, Desk desk, const char* element, Frame frame) {
    if (const auto id = ElementId::parse(element)) session->selection().select_element(*id);
    for (const auto& p : session->remake().parts)
        if (QString(element) == QString("role:%1").arg(part_role_name(p->role))) session->selection().select_element(p->id);
    window->show_desk(desk);
    QApplication::processEvents();
    std::vector<double> took;
    std::map<QWidget*, std::vector<double>> of_views;  // each by itself, as it is painted when only it has changed
    const auto ms_since = [](Clock::time_point t) { return std::chrono::duration<double>(Clock::now() - t).count() * 1000; };
    int step = 0;
    const auto change = [&] {
        if (frame == Frame::Playing) return;
        if (auto* view = window->transcribe()->current()) view->show_from(5.0 + (++step % 80));
        emit session->document_changed();
    };
    QImage image(window->size(), QImage::Format_ARGB32_Premultiplied);
    for (auto _ : state) {
        change();
        auto begun = Clock::now();
        window->render(&image);
        took.push_back(ms_since(begun));
        change();
        for (QWidget* view : window->findChildren<QWidget*>()) {
            if (!view->isVisible() || view->isWindow()) continue;
            begun = Clock::now();
            view->render(&image, {}, {}, QWidget::DrawWindowBackground);
            of_views[view].push_back(ms_since(begun));
        }
    }
    const auto p95 = [](std::vector<double>& all) {
        std::sort(all.begin(), all.end());
        return all[all.size() * 95 / 100];
    };
    double slowest = 0.0;
    for (auto& [view, times] : of_views) slowest = std::max(slowest, p95(times));
    state.counters["window_p95_ms"] = p95(took);
    state.counters["slowest_view_p95_ms"] = slowest;
    state.counters["window_up_s"] = window_up_s;
}
BENCHMARK_CAPTURE(Paint, survey, Desk::Survey, "tempo", Frame::Anew)->Iterations(100)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, survey_playing, Desk::Survey, "tempo", Frame::Playing)->Iterations(100)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, transcribe_notes, Desk::Transcribe, "role:lead", Frame::Anew)->Iterations(100)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, transcribe_notes_playing, Desk::Transcribe, "role:lead", Frame::Playing)->Iterations(100)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, transcribe_drums, Desk::Transcribe, "role:drums", Frame::Anew)->Iterations(100)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, transcribe_drums_playing, Desk::Transcribe, "role:drums", Frame::Playing)->Iterations(100)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, transcribe_chords, Desk::Transcribe, "chords", Frame::Anew)->Iterations(100)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, transcribe_chords_playing, Desk::Transcribe, "chords", Frame::Playing)->Iterations(100)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, rebuild, Desk::Rebuild, "role:bass", Frame::Anew)->Iterations(100)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, rebuild_playing, Desk::Rebuild, "role:bass", Frame::Playing)->Iterations(100)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, check, Desk::Check, "role:bass", Frame::Anew)->Iterations(100)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(Paint, check_playing, Desk::Check, "role:bass", Frame::Playing)->Iterations(100)->Unit(benchmark::kMillisecond);
// Last, because it leaves another recording open: the page of these ten minutes is then scrolled.
BENCHMARK(OpenKnownTenMinutes)->Unit(benchmark::kSecond)->UseManualTime()->Iterations(5);
BENCHMARK(ScrollAndZoomTheirPage)->Unit(benchmark::kMillisecond)->Iterations(200);
BENCHMARK(EditAmong20000Notes)->Unit(benchmark::kMillisecond)->Iterations(100);
BENCHMARK(FirstLookAtFourMinutes)->Unit(benchmark::kSecond)->UseManualTime()->Iterations(3);

}  // namespace

int main(int argc, char** argv) {
    const auto begun = Clock::now();
    TimedApplication app(argc, argv);
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
    w.open(QString::fromStdString(kDemo.string()));
    wait_until([&] { return s.has_reference() && !s.busy() && s.rebuild_is_current(); });
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    return 0;
}
