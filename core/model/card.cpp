#include "core/model/card.hpp"

namespace envar::model {

SchemeOf schemes_of(const std::vector<Card>& cards) {
    return [&cards](std::string_view host) {
        for (const Card& card : cards)
            if (card.name.value == host) return card.scheme;
        return versions::Scheme::semantic;
    };
}

Card read_card(const Document& document, std::filesystem::path folder, std::string origin,
               std::vector<text::Finding>& findings) {
    Card card;
    card.folder = std::move(folder);
    card.origin = std::move(origin);
    card.source = document.source;
    findings.insert(findings.end(), document.findings.begin(), document.findings.end());
    if (document.readable) read_fields(card_fields(), &card, document, findings);
    if (card.phases.empty()) card.phases = {"main"};
    return card;
}

}  // namespace envar::model
