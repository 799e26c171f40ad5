# frozen_string_literal: true

module Estrel
  module Exports
    # What is exported of some members as of a date: what becomes of each, and the rows of those who are exported.
    # Nothing is written; the same for a look before a run and for the run.
    class Delivery
      # The column of who entered and who left, and its name where another column is called so.
      CHANGE = "change"
      OTHERWISE = "entered or left"
      # The most people whose rows are told at once.
      PEOPLE = 250_000
      private_constant :CHANGE, :OTHERWISE, :PEOPLE

      # @param settings [Settings]
      # @param evaluator [Audience::Evaluator] as of the date
      # @param members [Polars::Series] profile ids
      # @param suppression [Suppression]
      # @param standing [Holdout, nil] as in {Waterfall#initialize}
      # @param holdout [Holdout, Proc, nil] likewise
      # @param stood [Polars::Series, nil] profile ids exported last time, for changes
      # @param chances [#call] as in {Columns#initialize}
      # @raise [Invalid] for columns there are not
      def initialize(settings, evaluator, members, suppression, standing: nil, holdout: nil, stood: nil, chances: nil)
        @settings = settings
        @evaluator = evaluator
        @stood = stood
        @waterfall = Waterfall.new(evaluator, members, suppression, standing: standing, holdout: holdout)
        @models = Hash.new { |models, of| models[of] = chances.call(*of) }
        @chances = chances && ->(*of) { @models[of] }
        @columns = columns(evaluator)
      end

      # @return [Waterfall]
      attr_reader :waterfall

      # @return [Array<Propensity::Model>] see {Columns#models}
      def models = @columns.models

      # @return [Hash{String => Integer}] the waterfall's counts, and where only changes are exported, how many
      #   `entered` and `left`
      def counts
        return waterfall.counts unless changes?

        found = changes["change"].to_a.tally
        waterfall.counts.merge([Changes::ENTERED, Changes::LEFT].to_h { |change| [change, found.fetch(change, 0)] })
      end

      # @param limit [Integer, nil] how many rows are wanted, nil for all
      # @return [Polars::DataFrame] what is exported, by profile
      def rows(limit = nil) = Polars.concat(parts(limit).to_a)

      # The rows of one part of the ledger after the other, so that no more than those is in memory.
      #
      # @param limit [Integer, nil] as in {#rows}
      # @return [Enumerator::Lazy<Polars::DataFrame>] one at least
      def parts(limit = nil)
        people = limit ? told.head(limit) : told
        return [rows_of(people, @columns)].lazy if people.height.zero?

        @evaluator.in_parts(PEOPLE).lazy.filter_map do |part|
          theirs = Ledger::Rows.between(people, part.ledger.range || Ledger::Layout::EVERYBODY)
          rows_of(theirs, columns(part)) unless theirs.height.zero?
        end
      end

      # @return [Integer] how many rows there are
      def size = told.height

      # @return [Array<String>] the names of their columns
      def headers
        names = @settings.columns.map(&:as)
        return names unless changes?

        [names.include?(CHANGE) ? OTHERWISE : CHANGE, *names]
      end

      # @return [Polars::DataFrame] `profile_id` and `subject`, the best-known identifier as events name it
      #   ("customer:1042"; null where nothing but what is told as a digest is known), in the order of {#rows}
      def recipients = told.select(["profile_id"]).join(subjects, on: "profile_id", how: "left")

      private

      def columns(evaluator)
        Columns.new(evaluator, @settings.columns, channel: @settings.channel, chances: @chances,
                                                  digests: @settings.file["digests"])
      end

      def rows_of(people, columns)
        rows = columns.frame(people)
        return rows unless changes?

        people.select([Polars.col("change").alias(headers.first)]).hstack(rows)
      end

      # Who is exported.
      def told
        @told ||= changes? ? changes : waterfall.frame.filter(Polars.col("step") == Waterfall::EXPORTED)
      end

      def subjects
        profiles = @evaluator.ledger.profiles
        known = subject_columns & profiles.columns
        named = known.map do |column|
          Polars.concat_str([Polars.lit("#{column.delete_prefix("identifier:")}:"), Polars.col(column)])
        end
        subject = named.empty? ? Polars.lit(nil).cast(Polars::String) : Polars.coalesce(named)
        profiles.select([Polars.col("profile_id"), subject.alias("subject")])
      end

      # From the one the business issued to that of a device.
      def subject_columns
        addresses = @settings.file["digests"] ? [] : Columns::ADDRESSES.keys
        known = @evaluator.ledger.profiles.columns.grep(/\Aidentifier:/)
        custom = known - ["identifier:customer", "identifier:visitor", *Columns::ADDRESSES.keys]
        ["identifier:customer", *custom.sort, *addresses, "identifier:visitor"]
      end

      def changes? = @settings.mode == "changes"

      # With addresses, of those who left too.
      def changes
        @changes ||= begin
          now = waterfall.ids(Waterfall::EXPORTED)
          found = Changes.between(@stood || now.head(0), now)
          found.join(waterfall.addresses_of(found["profile_id"]), on: "profile_id", how: "left").sort("profile_id")
        end
      end
    end
  end
end
