// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <map>
#include <memory>
#include <string>
#include <utility>

namespace fw {

/// A piece of the document: immutable and shared between documents, so that copying one costs a pointer. edit() copies first where others hold it, too.
/// Never empty. Thread-safe as std::shared_ptr<const T> is; edit() belongs to the one who makes the next document.
template <class T>
class Shared {
public:
    Shared() : value_(nothing()) {}
    Shared(T value) : value_(std::make_shared<T>(std::move(value))) {}

    const T& operator*() const noexcept { return *value_; }
    const T* operator->() const noexcept { return value_.get(); }
    const T* get() const noexcept { return value_.get(); }
    T& edit() {
        if (value_.use_count() != 1) value_ = std::make_shared<T>(*value_);
        return *value_;
    }
    /// Whether both hold the very same piece: then nothing in it has changed.
    bool is(const Shared& other) const noexcept { return value_ == other.value_; }
    bool operator==(const Shared& other) const { return value_ == other.value_ || *value_ == *other.value_; }

private:
    static const std::shared_ptr<T>& nothing() {
        static const std::shared_ptr<T> empty = std::make_shared<T>();
        return empty;
    }
    std::shared_ptr<T> value_;
};

/// A member that mostly is as a T made of nothing: it then costs a pointer and copies at once. Writing goes through edit() or an assignment; what is assigned
/// plain takes no room again.
template <class T>
class Seldom {
public:
    Seldom() = default;
    Seldom(T value) : value_(value == T{} ? nullptr : std::make_unique<T>(std::move(value))) {}
    Seldom(const Seldom& other) : value_(other.value_ ? std::make_unique<T>(*other.value_) : nullptr) {}
    Seldom(Seldom&&) noexcept = default;
    Seldom& operator=(const Seldom& other) {
        if (value_ || other.value_) *this = Seldom(other);
        return *this;
    }
    Seldom& operator=(Seldom&&) noexcept = default;
    ~Seldom() = default;

    bool plain() const noexcept { return !value_; }  ///< false may be as plain, after an edit
    const T& operator*() const noexcept { return value_ ? *value_ : nothing(); }
    const T* operator->() const noexcept { return &**this; }
    T& edit() {
        if (!value_) value_ = std::make_unique<T>();
        return *value_;
    }
    bool operator==(const Seldom& other) const { return (!value_ && !other.value_) || **this == *other; }

private:
    static const T& nothing() noexcept {
        static const T plain{};
        return plain;
    }
    std::unique_ptr<T> value_;
};

/// What a newer program wrote that this one does not know: kept as it stood (JSON text by name) and written back.
class Unknown {
public:
    using Map = std::map<std::string, std::string>;
    bool empty() const noexcept { return map_->empty(); }
    const Map& map() const noexcept { return *map_; }
    void keep(Map map) { map_ = std::move(map); }
    bool operator==(const Unknown&) const = default;

private:
    Seldom<Map> map_;
};

}  // namespace fw
