#include "core/resolve/system_needs.hpp"

#include <map>

#include "core/model/pc_file.hpp"

namespace envar::resolve {

std::vector<SystemNeed> system_needs(const Question& question, const Resolution& resolution) {
    std::vector<SystemNeed> needs;
    std::map<std::pair<std::string, std::string>, search::SystemModule> asked;
    for (const Selected& selected : resolution.selected) {
        const model::Module* module = selected.from;
        const model::Card* card = module == nullptr ? nullptr : question.space->card(module->manifest.host.value);
        if (card == nullptr) continue;
        for (const auto& d : module->manifest.dependencies) {
            if (!d.system || !model::holds(d.when, question.platform, question.target)) continue;
            const auto [at, fresh] = asked.try_emplace({card->name.value, d.module.value});
            if (fresh) at->second = search::system_module(*card, d.module.value, question.environment);
            SystemNeed need{d.module.value,
                            card->name.value,
                            module->name(),
                            range_text(d.versions),
                            {module->source.file(), module->source.position(d.module.span.begin).line},
                            at->second};
            const auto version = versions::parse_version(model::plain_version(need.here.version));
            if (need.here.known && !need.here.found) need.fits = d.optional;
            if (version) need.fits = versions::meets(*version, d.versions, true);
            needs.push_back(std::move(need));
        }
    }
    return needs;
}

}  // namespace envar::resolve
