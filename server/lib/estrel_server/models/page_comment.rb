# frozen_string_literal: true

module EstrelServer
  # What somebody says about a page.
  class PageComment < Record
    belongs_to :page, inverse_of: :comments
    belongs_to :account, optional: true

    validates :text, presence: true, length: { maximum: 2000 }

    # @return [Boolean] whether whoever asks may remove it
    def mine?
      account = Access::Current.account
      account.nil? || account.id == account_id || account.at_least?("administrator")
    end
  end
end
