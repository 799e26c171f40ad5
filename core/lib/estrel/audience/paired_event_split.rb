# frozen_string_literal: true

module Estrel
  module Audience
    # What events are told apart by: two things at once, each of which is an {EventSplit}. Gives every event both values
    # as one text, see {Pair}. Knows all that an {EventSplit} does. Frozen.
    class PairedEventSplit < EventSplit
      # @param splits [Array<EventSplit>] two
      # @raise [Invalid] where both are the same
      def initialize(splits) # rubocop:disable Lint/MissingSuper -- it reads no field of its own
        twice = splits.map(&:key).uniq.one?
        raise Invalid, [{ place: "", message: "choose two different splits" }] if twice

        @splits = splits.dup.freeze
        freeze
      end

      # @return [Object] names the split completely
      def key = ["events by both", *@splits.map(&:key)]

      # @return [Polars::Expr] both values of each event of the type, never null
      def of(type, calendar) = Pair.of(*@splits.map { |split| split.of(type, calendar) })

      # @return [Array<String>] properties that are looked at
      def properties = @splits.flat_map(&:properties)

      # @return [Array<String>] what has to stand beside the events
      def beside = @splits.flat_map(&:beside)

      # @return [Boolean] see {EventSplit#of_people?}
      def of_people? = @splits.all?(&:of_people?)

      # @return [Coded] see {AttributeSplit#at}
      def at(rows, ledger) = @splits.map { |split| split.at(rows, ledger) }.reduce(:beside)

      # @param value [String]
      # @return [String] "monthly pass, Harbour"
      def said(value)
        Pair.taken_apart(value).zip(@splits).map { |part, split| part.nil? ? "not set" : split.said(part) }.join(", ")
      end

      # @return [Array<Hash>] see {EventSplit#filters}
      def filters(group, value, named)
        return [*parts(value).flat_map { |split, part| split.filters(part ? :value : :not_set, part, []) }] if
          group == :value

        named.map { |pair| { "any" => parts(pair).map { |split, part| split.unlike(part) } } }
      end

      private

      def parts(value) = @splits.zip(Pair.taken_apart(value))
    end
  end
end
