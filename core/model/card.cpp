#include "core/model/card.hpp"

#include <algorithm>

namespace envar::model {

const CardDialect* Card::dialect(std::string_view wanted) const {
    if (wanted.empty()) return &language;
    const auto found =
        std::find_if(dialects.begin(), dialects.end(), [&](const auto& d) { return d.name == wanted; });
    return found == dialects.end() ? nullptr : &*found;
}

const Blueprint* Card::blueprint(std::string_view wanted) const {
    const auto found =
        std::find_if(blueprints.begin(), blueprints.end(), [&](const auto& b) { return b.name == wanted; });
    return found == blueprints.end() ? nullptr : &*found;
}

bool Card::belongs(const CardFile& file, std::string_view blueprint) {
    return file.blueprints.empty() ||
           std::find(file.blueprints.begin(), file.blueprints.end(), blueprint) != file.blueprints.end();
}

SchemeOf schemes_of(const std::vector<Card>& cards) {
    return [&cards](std::string_view host) {
        for (const Card& card : cards)
            if (card.name.value == host) return card.scheme;
        return versions::Scheme::semantic;
    };
}

Card read_card(const Document& document, std::filesystem::path folder, std::string origin,
               std::vector<text::Finding>& findings, const Card* base) {
    Card card;
    if (base != nullptr) {
        card = *base;
        card.base_folder = base->folder;
    }
    card.folder = std::move(folder);
    card.origin = std::move(origin);
    card.source = document.source;
    findings.insert(findings.end(), document.findings.begin(), document.findings.end());
    const std::size_t files = card.files.size();
    const std::size_t blueprints = card.blueprints.size();
    const std::size_t fronts = card.fronts.size();
    if (document.readable) read_fields(card_fields(), &card, document, findings);
    if (base != nullptr && card.language_only) {
        const auto drop = [](auto& list, std::size_t count) {
            list.erase(list.begin(), list.begin() + static_cast<std::ptrdiff_t>(count));
        };
        drop(card.files, files);
        drop(card.blueprints, blueprints);
        drop(card.fronts, fronts);
    }
    if (card.phases.empty()) card.phases = {"main"};
    return card;
}

}  // namespace envar::model
