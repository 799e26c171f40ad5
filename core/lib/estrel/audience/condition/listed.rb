# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *on a list*: people who are known by one of the identifiers written down, pasted or picked by hand. Frozen.
      class Listed < Condition
        # How many identifiers a list holds.
        MOST = 5_000

        def self.schema(_kind)
          value = { "type" => "string", "minLength" => 1, "maxLength" => 255 }
          values = { "type" => "array", "items" => value, "maxItems" => MOST, "uniqueItems" => true }
          Schema.object({ "by" => { "type" => "string", "minLength" => 1, "maxLength" => 255 }, "values" => values },
                        required: %w[by values])
        end

        # Whoever must not see identifiers must not find out by asking who has one.
        def self.read(body, place, reading, _kind)
          return new(body["by"], body["values"]) if reading.catalogue.whole.equal?(reading.catalogue)

          reading.fault(place, "viewers cannot use conditions on identifiers")
        end

        # @return [String] the kind of identifier: "customer", "email", a custom ID, …
        attr_reader :by
        # @return [Array<String>]
        attr_reader :values

        def initialize(by, values)
          @by = by.dup.freeze
          @values = values.map { |value| value.dup.freeze }.sort.freeze
          freeze
        end

        # A kind that nobody has is no fault: the first such person may come tomorrow.
        #
        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          known = evaluator.identifiers(by) or return evaluator.constant(false)
          known.is_in(values).fill_null(false)
        end

        def lists = [self]

        # @param evaluator [Evaluator]
        # @return [Array<String>] those on the list that somebody has who has been seen
        def found(evaluator)
          known = evaluator.identifiers(by) or return []
          known.filter(evaluator.seen(evaluator.as_of) & known.is_in(values).fill_null(false)).unique.to_a
        end

        # @return [Hash] plain JSON
        def to_h = { "listed" => { "by" => by, "values" => values } }

        def parts(words) = said(words, "who are on")

        def denied(words) = said(words, "who are not on")

        def evidence(evaluator)
          { found: evaluator.identifiers(by)&.first ? "#{named} known, compared with the list" : "no #{named}" }
        end

        private

        def named = { "email" => "email address", "phone" => "phone number" }.fetch(by) { "#{by} ID" }

        def list
          case values.size
          when 0 then "an empty list"
          when 1 then "the list #{English.quoted(values.first)} (#{named})"
          else "a list of #{English.number(values.size)} #{by == "email" ? "email addresses" : "#{named}s"}"
          end
        end

        def said(words, opening)
          [words.plain(opening), words.part(list, "who", "listed", "listed")]
        end
      end
    end
  end
end
