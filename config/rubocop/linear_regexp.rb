# frozen_string_literal: true

module RuboCop
  module Cop
    module Estrel
      # This Ruby knows no limit for the time a regular expression takes, so none of ours may need one: on text from
      # outside, one that backtracks without bound stops everything.
      #
      # An expression passes by itself where nothing in it can be matched in more than one way at length: no unbounded
      # repetition at all; one that is not inside another, and is either anchored at the start or the last thing that is
      # matched; or all of them possessive. Any other is looked at by a person, who says on its line, or the one above,
      # why it is linear: `# linear: …`.
      class LinearRegexp < Base
        MSG = "Say why this is linear (`# linear: …`), or bound its repetitions."
        REMARK = /#.*\blinear: \S/

        # @param node [RuboCop::AST::RegexpNode]
        # @return [void]
        def on_regexp(node)
          tree = node.parsed_tree
          return if tree && plain?(tree, interpolated: node.interpolation?)

          add_offense(node) unless remarked?(node)
        end

        # @param node [RuboCop::AST::SendNode]
        # @return [void]
        def on_send(node)
          return unless node.method?(:new) && node.receiver&.const_name == "Regexp"

          add_offense(node) unless node.first_argument&.regexp_type? || remarked?(node)
        end

        private

        def remarked?(node)
          lines = processed_source.lines
          [lines[node.last_line - 1], lines[node.first_line - 1], lines[node.first_line - 2]].compact.any?(REMARK)
        end

        def plain?(tree, interpolated:)
          return false if interpolated && unbounded(tree).any?

          found = unbounded(tree)
          found.empty? || (found.one? && !inside_repetition?(tree,
                                                             found.first) && (anchored?(tree) || last?(tree,
                                                                                                       found.first)))
        end

        def expressions(tree) = [].tap { |found| tree.each_expression { |expression, _| found << expression } }

        # Every repetition without an upper bound that can give back what it has taken.
        def unbounded(tree)
          expressions(tree).select do |expression|
            expression.quantified? && expression.quantifier.max == -1 && !expression.possessive?
          end
        end

        def inside_repetition?(tree, inner)
          expressions(tree).any? do |outer|
            outer != inner && outer.quantified? && outer.quantifier.max != 1 && !outer.terminal? &&
              expressions(outer).any? { |expression| expression.equal?(inner) }
          end
        end

        def anchored?(tree) = tree.expressions.first&.type == :anchor

        def last?(tree, expression) = tree.expressions.last.equal?(expression)
      end
    end
  end
end
