// Runs the built program on files in a scratch folder.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "core/process/run.hpp"
#include "tests/support/scratch.hpp"

namespace envar::tests {

struct Run {
    int status = 0;
    std::string output;
    std::string errors;
};

class Driver : public Scratch {
  public:
    Driver();

    /// `envar` with these arguments, started in `folder` of the scratch folder.
    Run envar(const std::vector<std::string>& arguments, const std::string& folder = ".") const;
    /// The same with further variables, and optionally behind another program.
    Run envar_with(const process::Environment& variables, const std::vector<std::string>& arguments,
                   const std::string& folder = ".", const std::vector<std::string>& launcher = {}) const;
    /// The engine that ships, of the same build, started in the scratch folder.
    Run dome(const std::vector<std::string>& arguments, const process::Environment& variables = {}) const;
    /// Any program, found in the usual folders, with the environment of `envar`.
    Run program(const std::vector<std::string>& arguments, const process::Environment& variables = {}) const;

    /// The text with this scratch folder as `<here>`, times and durations as `<time>` and `<ms>`.
    [[nodiscard]] std::string neutral(std::string text) const;

  private:
    process::Environment environment_;
};

}  // namespace envar::tests
