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

/// What a newer program wrote that this one does not know: kept as it stood (JSON text by name) and written back.
class Unknown {
public:
    using Map = std::map<std::string, std::string>;
    bool empty() const noexcept { return !map_ || map_->empty(); }
    const Map& map() const {
        static const Map none;
        return map_ ? *map_ : none;
    }
    void keep(Map map) { map_ = map.empty() ? nullptr : std::make_shared<const Map>(std::move(map)); }
    bool operator==(const Unknown& other) const { return map_ == other.map_ || map() == other.map(); }

private:
    std::shared_ptr<const Map> map_;
};

}  // namespace fw
