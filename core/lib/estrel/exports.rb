# frozen_string_literal: true

module Estrel
  # Exporting an audience: who of its members is excluded and why, who is in the holdout to measure against, what the
  # file says about the others, and who is new or gone since the last time.
  module Exports
    # An export that makes no sense, or asks for what there is not; the message says what to do.
    class Invalid < Error; end
  end
end
