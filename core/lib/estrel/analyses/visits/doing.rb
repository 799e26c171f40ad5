# frozen_string_literal: true

module Estrel
  module Analyses
    class Visits
      # Tells people who have done something by the as-of date apart from all others, as {EventGroups} tells events
      # apart.
      class Doing
        # @param selection [Audience::Selection]
        # @param catalogue [Catalogue]
        def initialize(selection, catalogue)
          did = { "did" => { **selection.to_h, "count" => { "at_least" => 1 }, "window" => { "ever" => true } } }
          @definition = Audience::Definition.parse(did, catalogue: catalogue)
          @conditions = [did, { "not" => did }]
          @name = Audience::Phrases.new(catalogue).selected(selection, "by_doing").map { |part| part[:text] }.join(" ")
        end

        def counted_first? = false

        def personal? = true

        def of(rows, part, _labels)
          did = part.ids.filter(part.mask(@definition.root))
          [rows.with_columns([Polars.col("profile_id").is_in(did).is_not.cast(Polars::Int32).alias("group")])]
        end

        # @return [Array<Hash{Symbol => Object}>] see {EventGroups#named}
        def named(_labels)
          [@name, "have not #{@name}"].zip(@conditions).map do |name, people_in|
            { id: nil, kind: "value", value: name, people_in: people_in }
          end
        end

        def said(group) = group[:value]
      end
    end
  end
end
