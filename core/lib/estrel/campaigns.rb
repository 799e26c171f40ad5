# frozen_string_literal: true

module Estrel
  # Campaigns: the messages that people were sent, what came of each, and how people respond from one to the next.
  module Campaigns
  end
end
