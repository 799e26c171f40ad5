# frozen_string_literal: true

module EstrelServer
  # Something that belongs to whoever made it, and is shared with all or private. Workers and the command line see all.
  module Owned
    extend ActiveSupport::Concern

    included do
      belongs_to :owner, class_name: "EstrelServer::Account", optional: true
      before_create { self.owner ||= Access::Current.account }
      after_save { References.check(self) }

      scope :visible, lambda {
        account = Access::Current.account
        next all if account.nil? || account.at_least?("administrator")

        where(private: false).or(where(owner: account))
      }
    end

    # Something new that is made of what is private to whoever makes it is private too.
    #
    # @return [void]
    def begin_private
      self.private = true if References.of(self).any? { |used| used.private && used.owner_id == owner_id }
    end

    # @return [Hash] plain JSON: whose it is
    def belonging
      { owner: owner&.email, mine: !owner.nil? && owner_id == Access::Current.account&.id, private: private }
    end

    # @param private [Boolean]
    # @return [void]
    # @raise [Error] where it is somebody else's
    def share(private)
      account = Access::Current.account
      unless account.nil? || account.id == owner_id || account.at_least?("administrator")
        raise Error, "only #{owner&.email || "an administrator"} can share this or make it private"
      end

      private && !is_a?(Export) ? References.check_private(self) : References.check(self, private: private)
      update_columns(private: private, owner_id: owner_id || account&.id)
    end
  end
end
