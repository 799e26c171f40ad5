# frozen_string_literal: true

module Estrel
  module Audience
    # One condition of a definition. Each kind is a class that does everything about it: it reads itself from JSON,
    # finds who fits, says itself in English and tells what it rests on for one person. A new kind is a new class and
    # its key in the list. Frozen.
    class Condition
      # @return [Hash{String => Class}] the kinds, by the key that names them in JSON
      def self.kinds
        @kinds ||= { "all" => Group, "any" => Group, "not" => Negation, "attribute" => Attribute, "changed" => Changed,
                     "did" => Did, "first" => Moment, "last" => Moment, "rhythm" => Rhythm, "visit" => SameVisit,
                     "visited" => Visited, "order" => Order, "lifecycle" => LifecycleState,
                     "profile_type" => ProfileType, "seen" => Seen,
                     "campaign" => Campaign, "reachable" => Reachable, "audience" => Membership,
                     "listed" => Listed, "chance" => Chance }.freeze
      end

      # @param kind [String] the key
      # @return [Hash] the JSON Schema of what stands beneath it, see {Schema}
      def self.schema(kind) = raise(NotImplementedError)

      # @param body [Object] the JSON beneath the condition's key
      # @param place [String] where it stands
      # @param reading [Reading] looks names up and takes faults
      # @param kind [String] the key
      # @return [Condition, nil] nil where there is a fault
      def self.read(body, place, reading, kind) = raise(NotImplementedError)

      # @param evaluator [Evaluator]
      # @return [Polars::Series] booleans over the ledger's profiles
      def mask(evaluator) = raise(NotImplementedError)

      # @return [Hash] plain JSON
      def to_h = raise(NotImplementedError)

      # @return [Object] names what is computed completely
      def key = to_h

      # @param words [Phrases]
      # @return [Array<Hash>] what it says, as phrases, without the conditions inside it
      def parts(words) = raise(NotImplementedError)

      # @param _words [Phrases]
      # @return [Array<Hash>, nil] what its opposite says, as phrases; nil where only an exception says it
      def denied(_words) = nil

      # @param words [Phrases]
      # @return [String] all it says on one line, with the conditions inside it
      def text(words) = parts(words).map { |part| part[:text] }.join(" ")

      # What it rests on for one person: `found`, one sentence; `asked`, what is wanted instead, where that is a number;
      # `facts` as `{what:, at:}`, an instant in microseconds and what happened or held from then on; how many `more`
      # were left out; `nearness`, left out where it is either fulfilled or not.
      #
      # @param _evaluator [Evaluator] over the ledger's part of one person
      # @return [Hash{Symbol => Object}]
      def evidence(_evaluator) = {}

      # @return [Array<Array(String, Condition)>] the conditions it is made of, each with its place beneath this one
      def branches = []

      # @param place [String] its own
      # @return [Array<Array(String, Condition)>] the conditions that explain its verdict, with their places
      def explained(place)
        branches.map { |suffix, inner| [place.empty? ? suffix : "#{place}.#{suffix}", inner] }
      end

      # @param found [Hash] of {#evidence}
      # @param _inner [Array<Float>] how near those that explain it are to holding
      # @return [Float] how near it is to holding where it does not: 0 to 1
      def nearness(found, _inner) = found.fetch(:nearness, 0.0)

      # @return [Boolean] whether it has to put events in order, or activity
      def costly? = branches.any? { |_, inner| inner.costly? }

      # @return [Array<Condition>] those that wait for something not to happen, so that people may still come to fit
      def awaiting = branches.flat_map { |_, inner| inner.awaiting }

      # @param _other [Condition]
      # @return [Boolean] whether it is plain to see that nobody can fit both
      def apart?(_other) = false

      # @return [Array<Listed>] the lists written down in it
      def lists = branches.flat_map { |_, inner| inner.lists }
    end
  end
end
