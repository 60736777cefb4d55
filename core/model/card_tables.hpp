// Tables within the field table of cards that have files of their own.
#pragma once

#include "core/model/fields.hpp"

namespace envar::model {

extern const Fields card_ask_table;
extern const Fields card_dialect_table;
extern const Fields card_file_table;
extern const Fields card_gather_table;
extern const Fields card_language_table;
extern const Fields card_search_table;
extern const Fields card_front_table;
extern const Fields card_trial_table;

}  // namespace envar::model
