# frozen_string_literal: true

module Estrel
  module Analyses
    class Change
      # By what people, or visits, are told apart: values that have groups of their own, all others, those without any;
      # and whoever stands outside of all of these.
      class Split
        # @return [String] what it is called
        attr_reader :name

        # @param split [Audience::Split, Audience::EventSplit, Membership]
        # @param name [String]
        def initialize(split, name)
          @split = split
          @name = name
        end

        # @return [Object] names it completely
        def key = [self.class.name, @split.key]

        # @param label [Array, nil] of {Lifecycle::Grouping.labels}; nil for the rest
        # @return [String]
        def said(label)
          case label&.first
          when nil then rest
          when :value then @split.said(label.last)
          when :other then English.counted(label.last, "other value")
          else "not set"
          end
        end

        private

        def named(labels) = labels.filter_map { |kind, value| value if kind == :value }

        def window(days) = { "from" => days.begin.iso8601, "to" => days.end.iso8601 }
      end
    end
  end
end
