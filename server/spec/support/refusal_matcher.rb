# frozen_string_literal: true

# An answer of the API that says no: with a status, and for a reason that can be read.
RSpec::Matchers.define :be_refused do |status, reason|
  said = ->(answer) { [answer["detail"], *(answer["errors"] || []).map { |error| error.values_at("place", "message").join(" ") }].compact.join("; ") }
  match { |answer| answer["status"] == status && said.call(answer).match?(reason) }
  failure_message { |answer| "expected #{status} because of #{reason.inspect}, got #{answer["status"]}: #{said.call(answer)}" }
end
