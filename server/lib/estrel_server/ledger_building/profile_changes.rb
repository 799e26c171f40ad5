# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # What happened to profiles since the previous generation: those that became part of others, and the erased ones.
    class ProfileChanges
      # @param previous [Estrel::Ledger::Generation, nil]
      def initialize(previous)
        marks = previous ? previous.facts.fetch("marks") : {}
        removed = previous ? Erasure.where("id > ?", marks.fetch("erasures")).pluck(:removed) : []
        @erased = removed.flat_map { |row| row["profiles"] }
        @into = previous ? merged(marks.fetch("merges"), removed.flat_map { |row| row.fetch("merges", []) }) : {}
      end

      # @return [Array<Integer>] ids of the profiles that were merged, of those they became part of, and of erased ones
      def ids = [*@into.keys, *@into.values, *@erased].uniq

      # @param frame [Polars::DataFrame] events of the previous generation
      # @return [Polars::DataFrame] those that stay where they are; the same frame where all do
      def stay(frame) = Estrel::Ledger::Splice.without(frame, (@into.keys + @erased).uniq)

      # @param frame [Polars::DataFrame] events of the previous generation
      # @return [Polars::DataFrame] those that have moved, with the profile they belong to now
      def moved(frame)
        from = @into.keys - @erased
        return frame.head(0) if from.empty?

        rows = Estrel::Ledger::Rows.of(frame, Polars::Series.new("profile_id", from.sort, dtype: Polars::Int64))
        rows.drop("profile_id").hstack([owners(rows)]).select(frame.columns)
      end

      private

      def owners(rows)
        Polars::Series.new("profile_id", rows["profile_id"].to_a.map { |id| @into.fetch(id) }, dtype: Polars::Int64)
      end

      # Chains are followed to their end: A into B, then B into C, leads from A to C.
      def merged(mark, removed)
        rows = Merge.where("id > ?", mark).pluck(:id, :from_profile_id, :into_profile_id) +
               removed.select { |id,| id > mark }
        steps = rows.sort.to_h { |_, from, into| [from, into] }
        steps.keys.to_h do |from|
          into = from
          into = steps[into] while steps.key?(into)
          [from, into]
        end
      end
    end
  end
end
