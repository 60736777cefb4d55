// An expected failure: what went wrong, what to do about it, and which exit status it deserves.
//
// Functions that can fail for reasons outside the program return Result<T>. Problems found in a user's
// documents are findings (finding.hpp), not failures.
#pragma once

#include <string>
#include <tl/expected.hpp>

namespace envar::text {

/// The value of each kind is the exit status of the process.
enum class FailureKind { answer_is_no = 1, wrong_usage = 2, machine_failed = 3 };

struct Failure {
    FailureKind kind = FailureKind::machine_failed;
    std::string message;  // the problem, lower case, no full stop, the offending value quoted
    std::string hint;     // what to do; may be empty
};

template <class T>
using Result = tl::expected<T, Failure>;

inline tl::unexpected<Failure> fail(FailureKind kind, std::string message, std::string hint = "") {
    return tl::unexpected<Failure>(Failure{kind, std::move(message), std::move(hint)});
}

/// What the user asked for has "no" for an answer.
inline tl::unexpected<Failure> refuse(std::string message, std::string hint = "") {
    return fail(FailureKind::answer_is_no, std::move(message), std::move(hint));
}

}  // namespace envar::text
