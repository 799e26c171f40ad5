# frozen_string_literal: true

module EstrelServer
  # What was done, when and by whom. Only added to; the database refuses changes.
  class AuditEntry < Record
    # @param action [String]
    # @param who [String] e-mail address
    # @param about [String]
    # @param from_address [String]
    # @return [AuditEntry]
    def self.add(action, who:, about: "", from_address: "")
      create!(at: Time.now.utc, who: who[0, 255], action: action, about: about[0, 1000],
              from_address: from_address[0, 64])
    end
  end
end
