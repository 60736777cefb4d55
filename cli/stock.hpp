// What commands about versions and order work on: a workspace with all that it can choose from, or a bare catalogue.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "cli/command.hpp"
#include "core/model/space.hpp"
#include "core/resolve/resolve.hpp"

namespace envar::cli {

/// --catalogue and --root, for commands that also work without a workspace.
void catalogue_options(options::options_description_easy_init option);
/// --stage, --prefer, --steps: how versions are chosen.
void choice_options(options::options_description_easy_init option);

struct Stock {
    model::Space space;          // of a bare catalogue: without modules
    resolve::Question question;  // of `space`, which must not be moved from now on
    resolve::Supply supply;
    resolve::Request request;  // with the workspace's lock
    std::optional<resolve::Lock> lock;
    std::string catalogue;  // as it was named; empty: it is the workspace

    /// Names of the roots.
    [[nodiscard]] std::vector<std::string> roots() const;
};

/// Reads all of it. What is wrong in lines of catalogues is told as warnings.
[[nodiscard]] text::Result<std::unique_ptr<Stock>> open_stock(Invocation& invocation);
/// The same for a workspace that is open already; it is moved into the stock.
[[nodiscard]] text::Result<std::unique_ptr<Stock>> open_stock(Invocation& invocation, model::Space space);

/// Findings as one line each, on standard error.
void warn_of(Invocation& invocation, const std::vector<text::Finding>& findings);

/// Set when the user wants a long search to end; the second time ends the process.
[[nodiscard]] const std::atomic<bool>& interrupted();

}  // namespace envar::cli
