#include "desktop/blanks/blank_editors.h"

namespace otoro::desktop {

BlankKind kind_of(service::Blank blank) {
    using service::Blank;
    switch (blank) {
        case Blank::none:
            break;
        case Blank::demand:
            return {Blanks::tr("Who is to be served"), edit_demand};
        case Blank::weight:
            return {Blanks::tr("How each place counts"), edit_weight};
        case Blank::serving:
            return {Blanks::tr("By which rule they are served"), edit_serving};
        case Blank::sites:
            return {Blanks::tr("Which sites may serve"), edit_sites};
        case Blank::travel:
            return {Blanks::tr("How they travel"), edit_travel};
        case Blank::towards:
            return {Blanks::tr("Which way they travel"), edit_towards};
        case Blank::limit:
            return {Blanks::tr("How far at most"), edit_limit};
        case Blank::share:
            return {Blanks::tr("The share that must be within the standard"), edit_share};
        case Blank::standard:
            return {Blanks::tr("The limit of the standard"), edit_standard};
        case Blank::steps:
            return {Blanks::tr("Further steps of the standard"), edit_steps};
    }
    return {};
}

}  // namespace otoro::desktop
