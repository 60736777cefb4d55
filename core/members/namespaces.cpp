#include "core/members/namespaces.hpp"

#include <algorithm>
#include <map>

#include "core/members/matching.hpp"

namespace envar::members {
namespace {

constexpr std::size_t longest_space_head = 512;  // of a namespace's block
constexpr std::size_t longest_full_name = 256;   // that still gets longer
constexpr std::size_t deepest_namespace = 64;    // that a name is in

}  // namespace

bool Namespaces::change_at(std::size_t statement, std::string_view window) {
    if (!patterns_.scope_line) return false;
    Groups groups;
    if (!groups.match_here(*patterns_.scope_line, patterns_.scope_line_opening, window)) return false;
    const std::string_view said = groups[patterns_.scope_line_name];
    if (full_names_.empty() && of_file_.empty() && lexed_.statements[statement].block == 0) of_file_ = said;
    if (said == card_.scope_outermost) leaves_it_ = true;
    said_in_[lexed_.statements[statement].block] = said;
    return true;
}

std::string_view Namespaces::full_name_of(std::size_t statement, std::string_view name, std::string_view written) {
    std::string full(written.ends_with(name) ? written : name);
    const std::string& mark = card_.qualifier;
    const std::string_view code = lexed_.code;
    // A name that begins with the mark is whole.
    const std::string_view whole = patterns_.scope_line ? std::string_view(mark) : std::string_view();
    if (full.find(mark) != std::string::npos) full.insert(0, whole);
    const auto put_into = [&](std::string_view space) { full.insert(0, mark).insert(0, space).insert(0, whole); };
    std::uint32_t block = lexed_.statements[statement].block;
    for (std::size_t deep = 0; deep < deepest_namespace && full.size() < longest_full_name && !full.starts_with(mark);
         ++deep) {
        if (const auto said = said_in_.find(block); said != said_in_.end()) {
            if (said->second != card_.scope_outermost) put_into(said->second);
            break;
        }
        if (block == 0) break;
        const OpenBlock& around = lexed_.blocks[block - 1];
        block = around.outer;
        if (around.opens - around.head > longest_space_head) continue;
        Groups groups;
        if (patterns_.scope && groups.match(*patterns_.scope, code.substr(around.head, around.opens - around.head),
                                            re2::RE2::UNANCHORED))
            put_into(groups[patterns_.scope_name]);
    }
    std::size_t begin = 0;
    while (!mark.empty() && full.compare(begin, mark.size(), mark) == 0) begin += mark.size();
    full.erase(0, begin);
    return full_names_.emplace_back(std::move(full));
}

void keep_own(const model::Card& card, const std::string& name, std::vector<FoundMember>& members) {
    if (card.scope_pattern.empty() && card.scope_line_pattern.empty()) return;
    const auto is_own = [&](const FoundMember& member) { return member.scope == name; };
    if (std::any_of(members.begin(), members.end(), is_own))
        std::erase_if(members, [&](const FoundMember& member) {
            return !is_own(member) &&
                   (member.scope.empty() ? "" : member.scope + card.qualifier) + member.name != name;
        });
    std::map<std::string, std::size_t> last;
    for (std::size_t i = 0; i < members.size(); ++i) last[members[i].name] = i;
    std::size_t at = 0;
    std::erase_if(members, [&](const FoundMember& member) { return last[member.name] != at++; });
}

}  // namespace envar::members
