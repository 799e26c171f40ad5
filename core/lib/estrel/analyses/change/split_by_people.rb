# frozen_string_literal: true

module Estrel
  module Analyses
    class Change
      # People told apart by something that was known of them on the eve of a period; those first seen in it are a group
      # of their own.
      class SplitByPeople < Split
        # @param json [Hash] see {Audience::Split.parse}
        # @param catalogue [Catalogue]
        # @return [SplitByPeople]
        def self.of(json, catalogue)
          kind, value = json.first
          name = kind == "attribute" ? catalogue.names.attribute(value) : kind.tr("_", " ")
          new(Audience::Split.parse(json, catalogue), name)
        end

        # @param audience [Stored::NamedAudience]
        # @return [SplitByPeople]
        def self.audience(audience) = new(Membership.new(audience), "audience #{English.quoted(audience.name)}")

        # @param counting [Counting]
        # @param period [Integer]
        # @return [Polars::DataFrame] everybody known in the period: `profile_id`, the value `told` on its eve, whether
        #   that is left for the `rest`, `n` and `y`
        def rows(counting, period)
          told = counting.on_eve(period).values_of(@split).alias("told")
          counting.people(period).hstack([told]).filter(Polars.col("n") == 1)
        end

        # @param label [Array, nil] of {Lifecycle::Grouping.labels}; nil for the rest
        # @param labels [Array<Array>] all of them
        # @param days [Range<Date>] of the period
        # @param selection [Audience::Selection]
        # @return [Hash] the condition, as JSON, of those of the group who did it in the period
        def people_in(label, labels, days, selection)
          did = { "did" => { **selection.to_h, "count" => { "at_least" => 1 }, "window" => window(days) } }
          return { "all" => [{ "seen" => { "window" => window(days) } }, did] } unless label

          eve = (days.begin - 1).iso8601
          { "all" => [{ "seen" => { "window" => { "to" => eve } } }, on(eve, condition(label, labels)), did] }
        end

        private

        def rest = "first seen in this period"

        def condition(label, labels)
          case label.first
          when :other then @split.other(named(labels))
          when :not_set then @split.condition(nil)
          else @split.condition(label.last)
          end
        end

        # The same condition as of a date, however deep it lies.
        def on(date, condition)
          condition.to_h do |kind, body|
            case kind
            when "all" then [kind, body.map { |one| on(date, one) }]
            when "not" then [kind, on(date, body)]
            when "attribute", "lifecycle", "audience" then [kind, { **body, "on" => date }]
            else [kind, body]
            end
          end
        end
      end
    end
  end
end
