// The rules, by what they look at. check.cpp holds the table.
#pragma once

#include <string>
#include <vector>

#include "core/check/check.hpp"

namespace envar::check {

using Findings = std::vector<text::Finding>;

// rules_module.cpp: a module by itself
void known_host(const Facts& facts, Findings& findings);
void module_name(const Facts& facts, Findings& findings);
void one_module_a_name(const Facts& facts, Findings& findings);
void entry_file(const Facts& facts, Findings& findings);
void entry_rules(const Facts& facts, Findings& findings);
void load_phase(const Facts& facts, Findings& findings);
void members_in_source(const Facts& facts, Findings& findings);

// rules_fields.cpp: what the values of one file say of each other
void values_agree(const Facts& facts, Findings& findings);
void workspace_repeats(const Facts& facts, Findings& findings);

// rules_files.cpp: files that the manifest names
void named_files(const Facts& facts, Findings& findings);
void assets(const Facts& facts, Findings& findings);
void schema_directives(const Facts& facts, Findings& findings);

// rules_dependency.cpp: what modules say of each other
void dependencies(const Facts& facts, Findings& findings);
void soft_order(const Facts& facts, Findings& findings);
void conditions(const Facts& facts, Findings& findings);
void cycles(const Facts& facts, Findings& findings);
void workspace_names(const Facts& facts, Findings& findings);
void phase_order(const Facts& facts, Findings& findings);

// rules_place.cpp: where things lie on the disk
void search_folders(const Facts& facts, Findings& findings);
void on_search_path(const Facts& facts, Findings& findings);
void hidden_in_views(const Facts& facts, Findings& findings);
void generated_files(const Facts& facts, Findings& findings);

// rules_lock.cpp: the lock against what there is
void lock_fits(const Facts& facts, Findings& findings);

// rules_host.cpp: what hosts with ways of their own will do
void host_assets(const Facts& facts, Findings& findings);
void host_drops(const Facts& facts, Findings& findings);

// rules_help.cpp: documentation, and names that could be better
void documentation(const Facts& facts, Findings& findings);
void advised_names(const Facts& facts, Findings& findings);

// rules_contract.cpp: what a version promises
void kept_promises(const Facts& facts, Findings& findings);

// rules_native.cpp: what code uses against what is declared
void includes(const Facts& facts, Findings& findings);
void imports(const Facts& facts, Findings& findings);
void system_modules(const Facts& facts, Findings& findings);
void file_lists(const Facts& facts, Findings& findings);

// rules_owner.cpp: what two modules cannot both have
void one_owner(const Facts& facts, Findings& findings);
void old_names(const Facts& facts, Findings& findings);
void one_identity(const Facts& facts, Findings& findings);

/// Names of all modules, for suggestions.
[[nodiscard]] std::vector<std::string> module_names(const model::Space& space);

}  // namespace envar::check
