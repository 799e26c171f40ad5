# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Who holds which identifiers while links are carried out: read once for all of them, then kept up in memory.
    class Holders
      # A profile with the identifiers it holds. `profile` is provisional until the profile has been made.
      Holder = Struct.new(:profile, :identifiers, :customer, :contact) do
        # @param given [Array<String>]
        # @return [void]
        def take(given)
          identifiers.concat(given)
          self.customer ||= given.find { |identifier| identifier.start_with?("customer:") }
          self.contact ||= given.any? { |identifier| !identifier.start_with?("visitor:") }
        end

        # @return [String] of {Estrel::Identity::TYPES}
        def type
          return "customer" if customer

          contact ? "contact" : "visitor"
        end
      end

      # Numbers of profiles that have not been made yet, in the order in which they will be.
      PROVISIONAL = 1 << 62
      NOBODY = Holder.new(nil, [], nil, nil).freeze
      private_constant :NOBODY

      # @param identity [Importing::Identity]
      # @param identifiers [Array<String>] those of all links
      def initialize(identity, identifiers)
        owners = identity.lookup(identifiers)
        @by_profile = read(identity, owners.values.uniq)
        @by_identifier = owners.transform_values { |profile| @by_profile.fetch(profile) }
        @made = []
      end

      # @param identifier [String]
      # @return [Estrel::Identity::Party]
      def party(identifier)
        holder = @by_identifier.fetch(identifier, NOBODY)
        Estrel::Identity::Party.new(identifier: identifier, profile: holder.profile, customer: holder.customer,
                                    type: holder.type)
      end

      # Somebody new, who is made with the next {#settle}.
      #
      # @param identifiers [Array<String>]
      # @return [Integer] a provisional number
      def make(identifiers)
        holder = Holder.new(PROVISIONAL + @made.size, [], nil, nil)
        @made << holder
        @by_profile[holder.profile] = holder
        attach(holder.profile, identifiers)
        holder.profile
      end

      # @param profile [Integer]
      # @param identifiers [Array<String>] which nobody held, or which left another one
      # @return [void]
      def attach(profile, identifiers)
        holder = @by_profile.fetch(profile)
        holder.take(identifiers)
        identifiers.each { |identifier| @by_identifier[identifier] = holder }
      end

      # @param from [Integer]
      # @param into [Integer]
      # @return [Array<String>] the identifiers that changed hands
      def merge(from, into)
        given = @by_profile.delete(from).identifiers
        attach(into, given)
        given
      end

      # @param identifier [String] which goes on to somebody else
      # @return [void]
      def leave(identifier) = @by_identifier.delete(identifier).identifiers.delete(identifier)

      # Gives those who are new their numbers.
      #
      # @param identity [Importing::Identity]
      # @return [Hash{Integer => Integer}] by the provisional ones
      def settle(identity)
        ids = @made.map(&:profile).zip(identity.create(@made.size)).to_h
        @made.each do |holder|
          @by_profile.delete(holder.profile)
          holder.profile = ids.fetch(holder.profile)
          @by_profile[holder.profile] = holder
        end
        @made = []
        ids
      end

      private

      def read(identity, profiles)
        holders = profiles.to_h { |profile| [profile, Holder.new(profile, [], nil, nil)] }
        identity.held_by(profiles).each { |profile, held| holders.fetch(profile).take(held) }
        holders
      end
    end
  end
end
