# frozen_string_literal: true

module Estrel
  module Analyses
    class Chance
      # People by how likely it is, in tenths of those on whom the model was tried: how it did there, and whom there is
      # now. The least likely first.
      class Tenths
        include Enumerable

        # Chances are added up in whole parts of so much, so that the order of parts does not matter.
        PARTS = 1_000_000_000
        # One of them.
        Tenth = Struct.new(:from, :to, :predicted, :observed, :low, :high, :lift, :tested, :people, :expected)

        # @param model [Propensity::Model]
        # @param cuts [Array<Float>] between tenths
        # @param part [Audience::Evaluator]
        # @return [Hash{Symbol => Hash{Integer => Integer}}] for {Sum}: by tenth, how many people and the sum of their
        #   chances in {PARTS}
        def self.counted(model, cuts, part)
          chance = (Polars.col("chance") * PARTS).round.cast(Polars::Int64)
          rows = model.chances(part).select([number(cuts).alias("tenth"), chance.alias("chance")])
          { people: Lifecycle::Tally.of(rows, Polars.col("tenth")),
            chances: Lifecycle::Tally.of(rows, Polars.col("tenth"), weight: "chance") }
        end

        # @param cuts [Array<Float>] between tenths
        # @return [Polars::Expr] the number of the tenth of each `chance`
        def self.number(cuts)
          cuts.sum(Polars.lit(0)) { |cut| (Polars.col("chance") >= cut).cast(Polars::Int64) }
        end

        # @param learned [Hash{Symbol => Object}] of {Learned#to_h}
        # @param now [Hash{Symbol => Hash}] of {.counted}, of all parts
        def initialize(learned, now)
          @learned = learned
          @now = now
        end

        # @yieldparam tenth [Tenth]
        # @return [void]
        def each(&) = all.each(&)

        # @return [Integer] how many people there are now
        def people = sum(&:people)

        # @return [Float] to how many of them it is expected to happen
        def expected = sum(&:expected)

        # @param tenth [Tenth]
        # @return [Hash] the condition, as JSON, of its people
        def people_in(tenth)
          bounds = { "at_least" => tenth.from || (0.0 unless tenth.to), "below" => tenth.to }.compact
          { "chance" => { **bounds, "model" => @learned[:model] } }
        end

        private

        def all
          @all ||= begin
            bounds = [nil, *@learned[:cuts], nil].each_cons(2)
            bounds.each_with_index.map { |(from, to), at| tenth(at, from, to) }
          end
        end

        def tenth(at, from, to)
          tested, predicted, happened = @learned[:tenths][at] || [0, nil, 0]
          share = happened.fdiv(tested) if tested.positive?
          low, high = Statistics::Shares.wilson(happened, tested) if share
          whole = @learned[:tested_on][:happened].fdiv(@learned[:tested_on][:people])
          Tenth.new(from, to, predicted, share, low, high, share && (share / whole), tested,
                    @now.dig(:people, at) || 0, (@now.dig(:chances, at) || 0).fdiv(PARTS))
        end
      end
    end
  end
end
