# frozen_string_literal: true

module Estrel
  module Audience
    # A parsed, checked and frozen audience definition.
    #
    # Made only by {Definition.parse}, so whoever holds one knows that its names exist, its types fit and its tree is
    # of bounded size. Equal definitions have equal canonical forms and digests.
    class Definition
      # @return [Object] the root condition
      attr_reader :root

      # @param source [String, Hash] JSON text or the parsed JSON, see docs/definition-format.md
      # @param catalogue [Catalogue]
      # @param audiences [AudienceSource, nil] where other audiences are found
      # @param rule_sets [RuleSetSource, nil] where named rule sets are found
      # @return [Definition]
      # @raise [Invalid] with every fault found and its place
      def self.parse(source, catalogue:, audiences: nil, rule_sets: nil)
        json = Document.new(source).checked
        new(Reading.new(catalogue, audiences, rule_sets).root(json))
      end

      def initialize(root)
        @root = root
        freeze
      end

      # The top-level conditions: those of a root `all`, otherwise the root alone.
      #
      # @return [Array<Object>]
      def conditions = conjunction? ? root.conditions : [root]

      # @param index [Integer] of a top-level condition
      # @return [String] its place in the definition
      def place(index) = conjunction? ? "all[#{index}]" : ""

      # @return [Hash] the canonical form as plain JSON, defaults written out
      def to_h = root.to_h

      # @return [String] SHA-256 of the canonical form, hexadecimal
      def digest = Digest::SHA256.hexdigest(JSON.generate(to_h))

      private

      def conjunction? = root.is_a?(Condition::Group) && root.kind == "all"
    end
  end
end
