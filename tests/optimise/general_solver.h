#pragma once
/// \file
/// Whole-number programs, put to a general solver.
#include <coin/Cbc_C_Interface.h>

#include <utility>
#include <vector>

namespace otoro::optimise::test {

/// A program that is put together row by row: what is least, or most.
class WholeNumberProgram {
public:
    /// \returns the variable's number
    int variable(double least, double most, double objective, bool whole) {
        least_.push_back(least);
        most_.push_back(most);
        objective_.push_back(objective);
        whole_.push_back(whole);
        entries_.emplace_back();
        return static_cast<int>(least_.size()) - 1;
    }
    void row(const std::vector<std::pair<int, double>>& terms, double least, double most) {
        for (const auto& [variable, factor] : terms)
            entries_[static_cast<std::size_t>(variable)].emplace_back(static_cast<int>(row_least_.size()), factor);
        row_least_.push_back(least);
        row_most_.push_back(most);
    }
    struct Solved {
        bool any;
        double objective;
    };
    [[nodiscard]] Solved solved(bool most) const {
        std::vector<CoinBigIndex> start{0};
        std::vector<int> index;
        std::vector<double> value;
        for (const auto& of : entries_) {
            for (const auto& [row, factor] : of) {
                index.push_back(row);
                value.push_back(factor);
            }
            start.push_back(static_cast<CoinBigIndex>(index.size()));
        }
        Cbc_Model* model = Cbc_newModel();
        Cbc_setParameter(model, "logLevel", "0");
        Cbc_loadProblem(model, static_cast<int>(least_.size()), static_cast<int>(row_least_.size()), start.data(),
                        index.data(), value.data(), least_.data(), most_.data(), objective_.data(), row_least_.data(),
                        row_most_.data());
        for (std::size_t k = 0; k < whole_.size(); ++k)
            if (whole_[k]) Cbc_setInteger(model, static_cast<int>(k));
        Cbc_setObjSense(model, most ? -1 : 1);
        Cbc_solve(model);
        const Solved out{Cbc_isProvenOptimal(model) != 0 && Cbc_isProvenInfeasible(model) == 0, Cbc_getObjValue(model)};
        Cbc_deleteModel(model);
        return out;
    }

private:
    std::vector<double> least_, most_, objective_, row_least_, row_most_;
    std::vector<bool> whole_;
    std::vector<std::vector<std::pair<int, double>>> entries_;
};

}  // namespace otoro::optimise::test
