# frozen_string_literal: true

module Estrel
  module Exports
    # Who is exported where only changes are: who entered since the last run, and who left. Whoever
    # was exported and is now excluded for any reason has left.
    module Changes
      ENTERED = "entered"
      LEFT = "left"

      module_function

      # @param before [Polars::Series] profile ids that stand at the destination
      # @param now [Polars::Series] profile ids that should stand there
      # @return [Polars::DataFrame] `profile_id` and `change`, by profile
      def between(before, now)
        before, now = [before, now].map { |ids| ids.alias("profile_id").to_frame }
        rows = { ENTERED => [now, before], LEFT => [before, now] }.map do |change, (some, others)|
          some.join(others, on: "profile_id", how: "anti").with_columns([Polars.lit(change).alias("change")])
        end
        Polars.concat(rows).sort("profile_id")
      end
    end
  end
end
