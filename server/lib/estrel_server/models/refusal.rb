# frozen_string_literal: true

module EstrelServer
  # Something the collector did not take, with the reason and as it was; kept for seven days.
  class Refusal < Record
    KEPT_DAYS = 7
    MAX_PAYLOAD = 16_384

    belongs_to :source, optional: true

    # @return [Integer] how many were removed because they are old
    def self.clear_old = where("received_at < ?", Time.now.utc - (KEPT_DAYS * 86_400)).delete_all
  end
end
