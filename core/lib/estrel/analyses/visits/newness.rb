# frozen_string_literal: true

module Estrel
  module Analyses
    class Visits
      # Tells the first visit of a person's life apart from all later ones, as {EventGroups} tells events apart.
      class Newness
        NAMES = ["first visits", "later visits"].freeze
        NUMBERS = [{ "at_most" => 1 }, { "at_least" => 2 }].freeze
        private_constant :NAMES, :NUMBERS

        # @param visits [Polars::DataFrame] of {Estrel::Visits.listed}, all there are of each person
        # @return [Polars::DataFrame] with `later`, whether it is not the person's first
        def self.numbered(visits)
          profile = Polars.col("profile_id")
          visits.with_columns([(profile == profile.shift(1)).fill_null(false).alias("later")])
        end

        def counted_first? = false

        def personal? = false

        def of(rows, _part, _labels) = [rows.with_columns([Polars.col("later").cast(Polars::Int32).alias("group")])]

        # @return [Array<Hash{Symbol => Object}>] see {EventGroups#named}; `visit` is what {Audience::Condition::Visited}
        #   asks of its visits
        def named(_labels)
          NAMES.zip(NUMBERS).map do |name, number|
            { id: nil, kind: "value", value: name, people_in: { "all" => [] }, visit: { "number" => number } }
          end
        end

        def said(group) = group[:value]
      end
    end
  end
end
