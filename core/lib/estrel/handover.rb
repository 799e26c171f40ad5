# frozen_string_literal: true

module Estrel
  # Handing an audience over: who of its members is kept back and why, who is held out to measure against, what is told
  # of the others, and who is new or gone since the last time.
  module Handover
    # A plan that makes no sense, or asks for what there is not; the message says what to do.
    class Invalid < Error; end
  end
end
