// Binds rows of field tables to members of structs: `at<&Dependency::reason>()`.
//
// The member's C++ type decides how a value is put in and got out. A second member, a Span, takes the value's
// place in the source.
#pragma once

#include <cstdint>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

#include "core/model/fields.hpp"
#include "core/model/values.hpp"

namespace envar::model {

void assign(std::string& into, const Field& field, const Node& value);
void assign(Word& into, const Field& field, const Node& value);
void assign(bool& into, const Field& field, const Node& value);
void assign(std::int64_t& into, const Field& field, const Node& value);
void assign(Scalar& into, const Field& field, const Node& value);
void assign(std::vector<std::string>& into, const Field& field, const Node& value);
void assign(std::vector<Word>& into, const Field& field, const Node& value);
void assign(Pairs& into, const Field& field, const Node& value);
void assign(versions::Requirement& into, const Field& field, const Node& value);

/// The value as TOML; empty when it is unset.
[[nodiscard]] std::string as_toml(const std::string& value, const Field& field);
[[nodiscard]] std::string as_toml(const Word& value, const Field& field);
[[nodiscard]] std::string as_toml(bool value, const Field& field);
[[nodiscard]] std::string as_toml(std::int64_t value, const Field& field);
[[nodiscard]] std::string as_toml(const Scalar& value, const Field& field);
[[nodiscard]] std::string as_toml(const std::vector<std::string>& value, const Field& field);
[[nodiscard]] std::string as_toml(const std::vector<Word>& value, const Field& field);
[[nodiscard]] std::string as_toml(const Pairs& value, const Field& field);
[[nodiscard]] std::string as_toml(const versions::Requirement& value, const Field& field);

/// Which of the field's words the value is; 0 when it is none.
[[nodiscard]] std::size_t word_index(const Field& field, const Node& value);

namespace detail {

template <class>
struct MemberOf;
template <class O, class V>
struct MemberOf<V O::*> {
    using Owner = O;
    using Value = V;
};
template <class>
inline constexpr bool is_vector = false;
template <class T>
inline constexpr bool is_vector<std::vector<T>> = true;

}  // namespace detail

/// For fields with one value. An enumeration takes the index of the word among the field's values.
template <auto Member, auto Place = nullptr>
[[nodiscard]] constexpr Binding at() {
    using Of = detail::MemberOf<decltype(Member)>;
    using Owner = typename Of::Owner;
    Binding binding;
    binding.set = [](void* owner, const Field& field, const Node& value) {
        auto& into = static_cast<Owner*>(owner)->*Member;
        if constexpr (std::is_enum_v<typename Of::Value>) {
            into = static_cast<typename Of::Value>(word_index(field, value));
        } else {
            assign(into, field, value);
        }
        if constexpr (!std::is_null_pointer_v<decltype(Place)>) static_cast<Owner*>(owner)->*Place = value.span;
    };
    binding.get = [](const void* owner, const Field& field) {
        const auto& from = static_cast<const Owner*>(owner)->*Member;
        if constexpr (std::is_enum_v<typename Of::Value>) {
            return as_toml(std::string(field.values.at(static_cast<std::size_t>(from))), field);
        } else {
            return as_toml(from, field);
        }
    };
    return binding;
}

/// For tables within the struct, and for lists of tables in a vector of structs. `Place`, a member of the struct
/// within, takes the place of the table's head.
template <auto Member, auto Place = nullptr>
[[nodiscard]] constexpr Binding within() {
    using Of = detail::MemberOf<decltype(Member)>;
    using Owner = typename Of::Owner;
    Binding binding;
    binding.enter = [](void* owner, const Node& value) -> void* {
        auto& into = static_cast<Owner*>(owner)->*Member;
        if constexpr (detail::is_vector<typename Of::Value>) {
            auto& element = into.emplace_back();
            if constexpr (!std::is_null_pointer_v<decltype(Place)>) element.*Place = value.span;
            return &element;
        } else {
            if constexpr (!std::is_null_pointer_v<decltype(Place)>) into.*Place = value.span;
            return &into;
        }
    };
    binding.elements = [](const void* owner) {
        const auto& from = static_cast<const Owner*>(owner)->*Member;
        std::vector<const void*> out;
        if constexpr (detail::is_vector<typename Of::Value>) {
            for (const auto& element : from) out.push_back(&element);
        } else {
            out.push_back(&from);
        }
        return out;
    };
    return binding;
}

/// For a table whose fields go into the same struct as its owner's.
template <class Owner, auto Place = nullptr>
[[nodiscard]] constexpr Binding same() {
    Binding binding;
    binding.enter = [](void* owner, const Node& value) -> void* {
        if constexpr (!std::is_null_pointer_v<decltype(Place)>) static_cast<Owner*>(owner)->*Place = value.span;
        return owner;
    };
    binding.elements = [](const void* owner) { return std::vector<const void*>{owner}; };
    return binding;
}

}  // namespace envar::model
