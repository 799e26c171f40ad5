# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *reachable* by one of the named channels at the end of the as-of date, see {Reach}. Frozen.
      class Reachable < Condition
        def self.schema(_kind) = Schema.object({ "by" => Schema.some_of(Reach::CHANNELS) }, required: %w[by])

        def self.read(body, _place, _reading, _kind) = new(body["by"])

        # @return [Array<String>] of {Reach::CHANNELS}, in their order
        attr_reader :channels

        def initialize(channels)
          @channels = (Reach::CHANNELS & channels).freeze
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator) = channels.map { |channel| evaluator.reach.mask(channel) }.reduce(:|)

        # @return [Hash] plain JSON
        def to_h = { "reachable" => { "by" => channels } }

        def parts(words) = said(words, "can")

        def denied(words) = said(words, "cannot")

        def evidence(evaluator)
          told = channels.map { |channel| [channel, evaluator.reach.mask(channel).any?] }
          facts = channels.flat_map do |channel|
            rows = evaluator.reach.rows(channel).rows(named: true)
            rows.last(Facts::MOST).map { |row| { what: known(channel, row), at: row["occurred_at"] } }
          end
          found = told.map { |channel, yes| "#{"not " unless yes}by #{English.channel(channel)}" }
          { found: found.join(", "), facts: facts }
        end

        private

        def said(words, can)
          named = channels.map { |channel| English.channel(channel) }
          [words.plain("who #{can} be reached by"), words.part(English.either(named), "who", "channels", "reachable")]
        end

        def known(channel, row)
          named = English.channel(channel)
          return "consent to #{named} #{row["given"] ? "given" : "withdrawn"}" if row["address"].nil?

          "address for #{named} known#{" (invalid)" unless Reach.valid?(channel, row["address"])}"
        end
      end
    end
  end
end
