# frozen_string_literal: true

module Estrel
  # A named group of people is a definition; its members are always computed.
  #
  # {Definition} is the frozen tree of conditions, {Evaluator} finds who fits it, {Sentence} says it in English.
  module Audience
    # A definition that cannot be used.
    class Invalid < Estrel::Invalid; end
  end
end
