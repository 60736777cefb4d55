#include "core/emit/native.hpp"

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>
#include <set>

#include "core/search/naming.hpp"
#include "core/search/session.hpp"
#include "core/text/names.hpp"
#include "core/text/template.hpp"
#include "core/versions/ranges.hpp"

namespace envar::emit {
namespace {

namespace fs = std::filesystem;
using nlohmann::json;

/// Needs no quotes in any descriptor.
bool is_plain(const std::string& file) {
    return std::all_of(file.begin(), file.end(), [](char c) {
        return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' || c == '.' ||
               c == '/' || c == '+' || c == '-';
    });
}

/// On one line, as descriptions in descriptors are.
std::string on_one_line(std::string text) {
    for (char& c : text)
        if (static_cast<unsigned char>(c) < ' ' || c == 0x7f) c = ' ';
    return text;
}

json files_of(const std::vector<std::string>& files) {
    json list = json::array();
    for (const auto& file : files) {
        const fs::path path = file;
        list.push_back({{"file", file},
                        {"plain", is_plain(file)},
                        {"stem", path.stem().string()},
                        {"basename", path.filename().string()}});
    }
    mark_ends(list);
    return list;
}

/// `include/sky/place.hpp` is included as `sky/place.hpp`.
std::string inner_name(const std::string& file) {
    const std::string front = std::string(public_folder) + "/";
    return file.starts_with(front) ? file.substr(front.size()) : file;
}

json public_headers_of(const NativeFiles& files, const std::string& umbrella) {
    json list = files_of(files.public_headers);
    for (auto& item : list) {
        const auto file = item["file"].get<std::string>();
        item["inner"] = inner_name(file);
        item["is_umbrella"] = file == umbrella;
    }
    return list;
}

/// The same by the folder that they are installed in.
json header_groups_of(const NativeFiles& files) {
    std::map<std::string, std::vector<std::string>> groups;
    for (const auto& file : files.public_headers)
        groups[fs::path(inner_name(file)).parent_path().generic_string()].push_back(file);
    json list = json::array();
    for (const auto& [group, members] : groups) list.push_back({{"group", group}, {"headers", files_of(members)}});
    mark_ends(list);
    return list;
}

/// How the card writes that the platform is the present one.
std::string platform_test(const model::Card& card, const std::string& platform) {
    for (const auto& [name, test] : card.platforms) {
        if (name == platform) return test;
        if (name != "*") continue;
        std::string out;
        for (const char c : test) c == '*' ? out += platform : out += c;
        return out;
    }
    return platform;
}

json words_of(const std::vector<model::Word>& words, const model::Card& card, bool platforms) {
    json list = json::array();
    for (const auto& word : words) {
        const bool negated = word.value.starts_with('!');
        const std::string plain = negated ? word.value.substr(1) : word.value;
        list.push_back(
            {{"word", plain}, {"negated", negated}, {"test", platforms ? platform_test(card, plain) : plain}});
    }
    mark_ends(list);
    return list;
}

void add_condition(json& item, const model::Condition& when, const model::Card& card) {
    item["when_platforms"] = words_of(when.platforms, card, true);
    item["when_targets"] = words_of(when.targets, card, false);
    item["on_platforms"] = !when.platforms.empty();
    item["on_targets"] = !when.targets.empty();
    item["conditional"] = !when.platforms.empty() || !when.targets.empty();
}

json need_of(const model::Dependency& d, const model::Card& card) {
    const auto ranges = versions::ranges_of(d.versions);
    json written = json::array();
    json bounds = json::array();
    for (const auto& range : ranges)
        written.push_back({{"least", versions::short_text(range.least)},
                           {"limit", range.limit ? versions::short_text(*range.limit) : ""},
                           {"only", ranges.size() == 1}});
    mark_ends(written);
    // What two bounds can say: everything between the lowest and the highest.
    if (!d.versions.is_any() && !ranges.empty()) {
        bounds.push_back({{"operator", ">="}, {"bound", versions::short_text(ranges.front().least)}});
        if (ranges.back().limit)
            bounds.push_back({{"operator", "<"}, {"bound", versions::short_text(*ranges.back().limit)}});
    }
    mark_ends(bounds);
    versions::Version next_major;
    if (!ranges.empty()) next_major.numbers = {ranges.front().least.numbers[0] + 1, 0, 0, 0};
    const bool single = !d.versions.is_any() && ranges.size() == 1 && ranges.front().limit &&
                        !(next_major < *ranges.front().limit) && ranges.front().least.numbers[0] > 0;
    json need = {{"module", d.module.value},
                 {"identifier", text::in_form(d.module.value, text::NameForm::snake)},
                 {"upper", text::in_form(d.module.value, text::NameForm::upper)},
                 {"versions", d.versions.is_any() ? "any" : d.versions.text},
                 {"any", d.versions.is_any()},
                 {"ranges", written},
                 {"bounds", bounds},
                 {"single", single},
                 {"public", d.is_public},
                 {"private", !d.is_public},
                 {"optional", d.optional},
                 {"required", !d.optional},
                 {"system", d.system},
                 {"own", !d.system}};
    add_condition(need, d.when, card);
    const bool firm = !d.optional && !need["conditional"].get<bool>();
    need["firm"] = firm;
    need["loose"] = !firm;
    return need;
}

void add_needs(json& values, const model::Manifest& manifest, const model::Card& card, const Place& place) {
    json all = json::array(), open = json::array(), closed = json::array(), tests = json::array(),
         loose = json::array();
    bool system = false;
    for (const auto& d : manifest.dependencies) {
        const auto& unlinked = place.unlinked;
        if (std::find(unlinked.begin(), unlinked.end(), d.module.value) != unlinked.end()) continue;
        json need = need_of(d, card);
        if (d.stage == model::Stage::test) {
            tests.push_back(need);
            continue;
        }
        system = system || d.system;
        if (need["firm"]) (d.is_public ? open : closed).push_back(need);
        if (need["loose"]) loose.push_back(need);
        all.push_back(std::move(need));
    }
    for (json* list : {&all, &open, &closed, &tests, &loose}) mark_ends(*list);
    values["needs"] = all;
    values["has_needs"] = !all.empty();
    values["public_needs"] = open;
    values["has_public_needs"] = !open.empty();
    values["private_needs"] = closed;
    values["has_private_needs"] = !closed.empty();
    values["loose_needs"] = loose;
    values["has_firm_needs"] = !open.empty() || !closed.empty();
    values["test_needs"] = tests;
    values["needs_system"] = system;
}

void add_tunables(json& values, const model::Manifest& manifest, const model::Card& card) {
    json inputs = json::array(), outputs = json::array(), settings = json::array();
    for (const auto& t : manifest.parameters) {
        json words = json::array();
        for (const auto& value : t.values) words.push_back({{"word", value.value}});
        mark_ends(words);
        const bool is_text = t.type == "text" || t.type == "path";
        std::string preset = t.preset.text;
        if (is_text && t.preset.given()) preset = text::string_literal(search::dialect_of(card, "cxx"), preset);
        // The name on a command line, where words are joined by '-'.
        json item = {{"tunable", t.name.value},
                     {"option", text::in_form(t.name.value, text::NameForm::kebab)},
                     {"type", t.type},
                     {"is_text", is_text},
                     {"is_integer", t.type == "integer"},
                     {"is_number", t.type == "number"},
                     {"is_boolean", t.type == "boolean"},
                     {"unit", t.unit},
                     {"explained", t.summary},
                     {"must", t.required || t.role == model::TunableRole::input},
                     {"may", !t.required && t.role != model::TunableRole::input},
                     {"has_preset", t.preset.given()},
                     {"preset", preset},
                     {"least", t.least.text},
                     {"most", t.most.text},
                     {"words", words},
                     {"has_words", !words.empty()}};
        (t.role == model::TunableRole::input    ? inputs
         : t.role == model::TunableRole::output ? outputs
                                                : settings)
            .push_back(std::move(item));
    }
    for (json* list : {&inputs, &outputs, &settings}) mark_ends(*list);
    values["has_tunables"] = !manifest.parameters.empty();
    values["has_settings"] = !settings.empty();
    values["has_inputs"] = !inputs.empty();
    values["inputs"] = std::move(inputs);
    values["outputs"] = std::move(outputs);
    values["settings"] = std::move(settings);
}

json front_values(const model::Manifest& manifest, const model::Card& card, const Place& place) {
    json list = json::array();
    for (const auto& front : manifest.fronts) {
        const FrontCard by = front_card(front, card, place.cards);
        if (by.front == nullptr) continue;
        text::Values own = search::path_values(manifest, card);
        const std::string name = front.name.value.empty() ? manifest.name.value : front.name.value;
        own.emplace_back("front", name);
        std::vector<std::string> sources;
        for (const auto& file : by.card->files)
            if (file.scope == model::FileScope::front && file.front == by.front->kind)
                if (std::string path = text::fill(file.path, own); is_source(path)) sources.push_back(path);
        for (const auto& source : front.sources) sources.push_back(source.value);
        json packages = json::array();
        for (const auto& package : by.front->packages)
            packages.push_back({{"package", package}, {"package_id", text::in_form(package, text::NameForm::snake)}});
        mark_ends(packages);
        const std::string label = text::in_form(name, text::NameForm::snake) + "_" +
                                  (by.front->host.empty() ? by.front->kind : by.front->host);
        json along = json::array();
        for (const auto& file : by.front->along) along.push_back({{"file", text::fill(file, own)}});
        list.push_back({{"along", along},
                        {"has_along", !along.empty()},
                        {"front", name},
                        {"label", label},
                        {"front_kind", by.front->kind},
                        {"front_host", by.front->host},
                        {"front_summary", front.summary},
                        {"is_program", by.front->form == "program"},
                        {"is_loadable", by.front->form == "loadable"},
                        {"built", text::fill(by.front->file, own)},
                        {"ending", by.front->ending},
                        {"install", text::fill(by.front->install, own)},
                        {"packages", packages},
                        {"has_packages", !packages.empty()},
                        {"front_sources", files_of(sources)}});
    }
    mark_ends(list);
    return list;
}

json part_values(const model::Manifest& manifest, const model::Card& card) {
    json list = json::array();
    for (const auto& part : manifest.native.parts) {
        std::vector<std::string> sources;
        for (const auto& source : part.sources) sources.push_back(source.value);
        json defines = json::array();
        for (const auto& define : part.defines) defines.push_back({{"define", define}});
        mark_ends(defines);
        json item = {{"part_sources", files_of(sources)},
                     {"has_part_sources", !sources.empty()},
                     {"defines", defines},
                     {"has_defines", !defines.empty()}};
        add_condition(item, part.when, card);
        list.push_back(std::move(item));
    }
    mark_ends(list);
    return list;
}

bool any_target_condition(const model::Manifest& manifest) {
    return std::any_of(manifest.dependencies.begin(), manifest.dependencies.end(),
                       [](const auto& d) { return !d.when.targets.empty(); }) ||
           std::any_of(manifest.native.parts.begin(), manifest.native.parts.end(),
                       [](const auto& p) { return !p.when.targets.empty(); });
}

/// Dependencies first, among those that are ready by name; what is in a circle comes last, by name.
std::vector<const model::Module*> build_order(const std::vector<const model::Module*>& modules) {
    std::map<std::string, const model::Module*> open;
    for (const model::Module* module : modules) open.emplace(module->name(), module);
    std::map<std::string, std::size_t> waits;
    std::map<std::string, std::vector<std::string>> needed_by;
    for (const auto& [name, module] : open)
        for (const auto& d : module->manifest.dependencies)
            if (!d.system && d.module.value != name && open.count(d.module.value) != 0) {
                ++waits[name];
                needed_by[d.module.value].push_back(name);
            }
    std::set<std::string> ready;
    for (const auto& [name, module] : open)
        if (waits[name] == 0) ready.insert(name);
    std::vector<const model::Module*> out;
    while (!ready.empty()) {
        const std::string name = *ready.begin();
        ready.erase(ready.begin());
        out.push_back(open[name]);
        open.erase(name);
        for (const auto& other : needed_by[name])
            if (--waits[other] == 0) ready.insert(other);
    }
    for (const auto& [name, module] : open) out.push_back(module);
    return out;
}

/// The names and whatever they need.
std::set<std::string> with_needs(const std::vector<const model::Module*>& ordered, std::set<std::string> wanted) {
    for (auto it = ordered.rbegin(); it != ordered.rend(); ++it)
        if (wanted.count((*it)->name()) != 0)
            for (const auto& d : (*it)->manifest.dependencies) wanted.insert(d.module.value);
    return wanted;
}

}  // namespace

namespace {

/// Where the module's own host wants the built module, and what beside it; nothing for hosts that have no wish.
void add_install(json& values, const model::Manifest& manifest, const model::Card& card, const Place& place) {
    const model::Card* own = &card;
    if (place.cards != nullptr)
        for (const auto& other : *place.cards)
            if (other.name.value == manifest.host.value) own = &other;
    json along = json::array();
    json folders = json::array();
    const text::Values names = search::path_values(manifest, *own);
    for (const auto& file : own->along) along.push_back({{"file", text::fill(file, names)}});
    if (!own->install.empty())
        for (const auto& asset : manifest.assets) folders.push_back({{"folder", asset.folder.value}});
    values["native"]["install"] = text::fill(own->install, names);
    values["native"]["has_along"] = !along.empty();
    values["native"]["along"] = std::move(along);
    values["native"]["asset_folders"] = std::move(folders);
}

}  // namespace

FrontCard front_card(const model::Front& front, const model::Card& own, const std::vector<model::Card>* cards) {
    static constexpr std::array<std::string_view, 3> names = {"command", "plugin", "binding"};
    const std::string_view kind = names.at(static_cast<std::size_t>(front.kind));
    const auto of = [&](const model::Card& card) -> FrontCard {
        for (const auto& known : card.fronts)
            if (known.kind == kind && known.host == front.host.value) return {&card, &known};
        return {};
    };
    if (const FrontCard found = of(own); found.front != nullptr || cards == nullptr) return found;
    for (const auto& card : *cards)
        if (card.name.value == front.host.value) return of(card);
    return {};
}

void add_native(json& values, const model::Manifest& manifest, const model::Card& card, const Place& place,
                const NativeFiles& files) {
    using model::NativeKind;
    const model::Native& native = manifest.native;
    const bool is_static = native.kind == NativeKind::static_library;
    const bool is_shared = native.kind == NativeKind::shared_library;
    const bool headers = native.kind == NativeKind::headers;
    const std::string standard = native.standard.empty() ? "c++17" : native.standard;
    const bool cxx = standard.starts_with("c++");
    const auto numbers = manifest.version ? manifest.version->numbers : versions::Version{}.numbers;
    const bool stable = numbers[0] > 0;
    values["native"] = {
        {"static", is_static},
        {"shared", is_shared},
        {"headers", headers},
        {"program", native.kind == NativeKind::program},
        {"plugin", native.kind == NativeKind::plugin},
        {"library", is_static || is_shared || headers},
        {"linked", is_static || is_shared},
        {"compiled", !headers},
        {"cxx", cxx},
        {"standard", standard},
        {"standard_number", standard.substr(cxx ? 3 : 1)},
        {"soversion", stable ? std::to_string(numbers[0]) : "0." + std::to_string(numbers[1])},
        {"plain_version",
         std::to_string(numbers[0]) + "." + std::to_string(numbers[1]) + "." + std::to_string(numbers[2])},
        {"same_major", stable},
        {"sources", files_of(files.sources)},
        {"has_sources", !files.sources.empty()},
        {"public_headers", public_headers_of(files, native.umbrella.value)},
        {"has_public_headers", !files.public_headers.empty()},
        {"header_groups", header_groups_of(files)},
        {"private_headers", files_of(files.private_headers)},
        {"has_private_headers", !files.private_headers.empty()},
        {"has_source_folder", !files.sources.empty() || !files.private_headers.empty()},
        {"parts", part_values(manifest, card)},
        {"tests", files_of(files.tests)},
        {"has_tests", !files.tests.empty()},
        {"examples", files_of(files.examples)},
        {"has_examples", !files.examples.empty()},
        {"umbrella", inner_name(native.umbrella.value)},
        {"has_targets", any_target_condition(manifest)},
    };
    add_install(values, manifest, card, place);
    add_needs(values, manifest, card, place);
    add_tunables(values, manifest, card);
    values["fronts"] = front_values(manifest, card, place);
    values["has_fronts"] = !values["fronts"].empty();
    values["summary_line"] = on_one_line(manifest.summary);
    values["workspace_upper"] = text::in_form(place.workspace, text::NameForm::upper);
    values["namespace"] = text::in_form(manifest.name.value, text::NameForm::snake);
    json targets = json::array();
    for (const auto& target : place.targets) targets.push_back({{"target", target}});
    mark_ends(targets);
    values["targets"] = targets;
}

bool is_described(const model::Manifest& manifest, const model::Card& card) {
    if (!card.is_native() || manifest.keeps_own_files) return false;
    const auto& more = manifest.native.descriptors;
    return manifest.host.value == card.name.value ||
           std::any_of(more.begin(), more.end(), [&](const auto& word) { return word.value == card.name.value; });
}

json workspace_values(const model::Space& space, const model::Card& card) {
    std::vector<const model::Module*> described;
    for (const auto& module : space.modules)
        if (module.sound && is_described(module.manifest, card)) described.push_back(&module);
    if (described.empty()) return nullptr;
    const auto ordered = build_order(described);
    json modules = json::array();
    std::set<std::string> parents;
    for (const model::Module* module : ordered) {
        const fs::path folder = module->shown_folder;
        json needed = json::array();
        for (const auto& d : module->manifest.dependencies)
            if (std::any_of(ordered.begin(), ordered.end(),
                            [&](const model::Module* other) { return other->name() == d.module.value; }))
                needed.push_back({{"needed", d.module.value}});
        mark_ends(needed);
        json item = {{"module", module->name()},
                     {"module_folder", module->shown_folder},
                     {"module_basename", folder.filename().string()},
                     {"identifier", text::in_form(module->name(), text::NameForm::snake)},
                     {"needed", needed}};
        parents.insert(folder.has_parent_path() ? folder.parent_path().generic_string() : ".");
        model::Condition when;
        when.platforms = module->manifest.platforms;
        add_condition(item, when, card);
        modules.push_back(std::move(item));
    }
    mark_ends(modules);
    json targets = json::array();
    for (const auto& target : space.settings.targets) {
        std::set<std::string> roots;
        for (const auto& root : target.modules) roots.insert(root.value);
        const auto wanted = with_needs(ordered, roots);
        json own = json::array();
        for (const model::Module* module : ordered)
            if (wanted.count(module->name()) != 0) own.push_back({{"target_module", module->name()}});
        if (own.empty()) continue;
        mark_ends(own);
        targets.push_back({{"target", target.name.value}, {"target_modules", own}});
    }
    mark_ends(targets);
    return {{"workspace", space.settings.name.value},
            {"workspace_upper", text::in_form(space.settings.name.value, text::NameForm::upper)},
            {"host", card.name.value},
            {"modules", modules},
            {"targets", targets},
            {"has_targets", !targets.empty()},
            {"one_folder", parents.size() == 1},
            {"folder", *parents.begin()}};
}

}  // namespace envar::emit
