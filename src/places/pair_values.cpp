#include "places/pair_values.h"

#include "geo/digest.h"

namespace otoro::places {

std::string PairValues::digest() const {
    Digest d;
    d.text(name).value(static_cast<std::uint64_t>(count()));
    for (std::uint32_t i = 0; i < count(); ++i) d.text(demand.at(i)).text(sites.at(i)).value(values[i].count());
    return d.hex();
}

}  // namespace otoro::places
