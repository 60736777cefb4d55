// What a host did against what was predicted: read from the probe's report and from what the host says by itself.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "core/process/run.hpp"
#include "core/trial/report.hpp"
#include "core/trial/trial.hpp"

namespace envar::trial {

class Judge {
  public:
    /// `trial` holds the predictions and takes what happened. `copies` leads from where a module was copied to, to
    /// where it lies.
    Judge(const model::Space& space, const model::Card& card, HostTrial& trial,
          std::map<std::string, std::string> copies);

    /// Takes one run of the host. `report` is empty when there is none.
    void take_run(const process::Outcome& outcome, const std::string& report, double time_limit);
    /// Compares when all runs have been taken.
    void finish();

  private:
    bool take(const Record& record);
    void take_ask(const std::string& name);
    void take_of(ModuleTrial& one, const Record& record);
    void take_lines(const std::string& said);
    struct Said {
        std::string name, file, version, milliseconds, message;
    };
    void take_line(const model::TrialLine& line, const Said& said);
    ModuleTrial* find(const std::string& name);
    ModuleTrial* owner_of(const std::string& file);
    void leave(const std::string& name);
    void explain_early_end(const process::Outcome& outcome, double time_limit);
    void compare(ModuleTrial& one) const;
    void compare_members(ModuleTrial& one) const;
    static void compare_calls(ModuleTrial& one);
    [[nodiscard]] std::string original(const std::string& file) const;

    const model::Space& space_;
    const model::Card& card_;
    HostTrial& trial_;
    std::map<std::string, std::string> copies_;
    std::vector<std::string> underway_;  // being loaded, outermost first
    std::string last_begun_;
    std::string said_;  // trouble that the host told by itself
    std::size_t loaded_ = 0;
    bool ended_ = false;       // a line says that all is done
    bool lines_tell_ = false;  // the order of loading is in what the host says, not in the report
};

}  // namespace envar::trial
