// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/calm_combo.hpp"
#include "app/number_field.hpp"

#include <QCheckBox>
#include <QLabel>
#include <QLineEdit>
#include <QPointer>
#include <QPushButton>
#include <QStringList>
#include <QWidget>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

class QBoxLayout;

namespace fw::app {

using FactAction = std::function<void()>;

/// How wide a fact in a line is.
enum class FactWidth {
    OfItself,  ///< as its text needs
    Shared,    ///< what is left, in equal shares, however long its text
};

struct FactButton {
    QString text{}, tip{}, object{};
    FactAction run{};
    bool compact = false;
    FactWidth width = FactWidth::OfItself;
    int stretch = 0;
    int pixels = 0;                 ///< a fixed width; 0 for none
    std::optional<bool> checked{};  ///< stays down while true; none for one that does not
    bool from_left = false;         ///< its text begins at the left
    bool by_itself = false;         ///< checked by the program, not by the user: paler
};

struct FactEdit {
    QString object{}, text{}, tip{}, placeholder{};
    std::function<void(const QString&)> entered{};  ///< on Return, and where on_return is false when it is left, too
    bool on_return = false;
    std::function<QStringList(const QString&)> completed{};  ///< what may be meant by what has been typed; none where nothing is offered
    int stretch = 0;
    int least_pixels = 0;
};

struct FactNumber {
    QString object{}, tip{};
    double value = 0.0, low = 0.0, high = 1.0, step = 1.0;
    QString suffix{};
    int decimals = 0;
    std::function<void(double)> entered{};  ///< once it is let go or left with another value
    std::function<void(double)> turned{};   ///< at every change, for what is only remembered
    QString lowest{};                       ///< what stands there in the place of the lowest value
    int stretch = 0;
    int pixels = 0;
};

struct FactChoice {
    QString object{}, tip{};
    std::vector<std::pair<QString, QString>> items{};  ///< words and what they stand for
    int chosen = 0;
    std::function<void(int)> taken{};
    int stretch = 0;
    int pixels = 0;
    int least_letters = 0;  ///< narrower than its longest words; 0: as wide as they are
};

/// Entries of a button's menu, of which one without words is a rule between others.
using FactMenu = std::vector<std::pair<QString, FactAction>>;

/// Facts under one another that are told anew as often as wanted, between begin() and end(): what is told again is the same widget as before, with what is new
/// about it. So nothing is taken from under the mouse or from a hand that types, and telling costs what has changed. What is not told again goes.
///
/// A fact is known by its kind and object name, or without one by the heading it stands under, numbers aside; facts of one name keep their order.
class FactsColumn final : public QWidget {
    Q_OBJECT

public:
    explicit FactsColumn(QWidget* parent = nullptr);
    /// From here on facts of a subject are told; true where it is another one than before. What was typed about that one is entered first.
    bool begin(const QString& subject);
    void end();
    /// Whether a button is held, a list is open or a number is being dragged: then telling waits.
    bool in_hand() const;

    void title(const QString& text);
    void heading(const QString& text);
    void value(const QString& text, const QString& tip = {});
    void note(const QString& text, const QString& tip = {});
    /// A word in a line, and what it stands for beside it.
    void word(const QString& text, int stretch = 0, const QString& tip = {});
    /// Digits at the right edge of so many pixels.
    void figure(const QString& text, int pixels);
    void button(FactButton fact);
    void button(const QString& text, const QString& tip, FactAction run, const QString& object = {}) { button({text, tip, object, std::move(run)}); }
    void menu(const QString& text, const QString& tip, const QString& object, FactMenu entries);
    void edit(FactEdit fact);
    /// Returned, since a tool reads its numbers when it is pressed.
    const NumberField* number(FactNumber fact);
    void choice(FactChoice fact);
    void check(const QString& text, const QString& tip, const QString& object, bool on, std::function<void(bool)> switched);
    /// A field of the document, which follows it by itself.
    void field(Session& session, const FieldRef& field, const Parameter& row);
    /// What is told while it lives stands side by side.
    class [[nodiscard]] Line {
    public:
        Line(FactsColumn& column, int spacing);
        ~Line();
        Line(const Line&) = delete;
        Line& operator=(const Line&) = delete;

    private:
        FactsColumn& column_;
    };
    Line line(int spacing = 4) { return {*this, spacing}; }

signals:
    /// Something was done by one of its facts, which may not have come to be: all is to be told anew.
    void acted();

private:
    struct Fact {
        std::string key;
        QWidget* widget = nullptr;
    };
    struct Box {
        QBoxLayout* layout = nullptr;
        std::vector<Fact> before, told;
    };
    /// The fact of this kind and name as it stands, or a new one.
    template <class W>
    std::pair<W*, bool> known(const char* kind, const QString& object, int stretch, const std::function<W*()>& make);
    void close(Box& box);
    /// Tab goes from top to bottom, whenever each was made.
    void order_tabs();
    void label(const char* kind, const char* object, const QString& text, const QString& tip);
    template <class Action, class... Values>
    void act(const Action& action, const Values&... values);

    Box column_;
    std::map<QWidget*, Box> lines_;
    Box* open_ = &column_;
    QString subject_;
    std::vector<QWidget*> made_;  ///< and not shown yet
    QPointer<QWidget> focused_;   ///< while all is hidden
    std::string under_;           ///< the heading told last
    bool anew_ = false;           ///< the subject is another one than before
    bool telling_ = false;
    bool any_made_ = false;  ///< since telling began
};

}  // namespace fw::app
