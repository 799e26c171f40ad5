# frozen_string_literal: true

module EstrelServer
  module Workspaces
    # The text of tokens and sending keys: 32 random bytes, after the name of the workspace they are for where that is
    # not the first one. So whoever shows one need not say where they want to go.
    module Key
      # Prefixes have three characters. linear: the run ends at a sign that it cannot hold
      NAMED = /\A[a-z]{2}_([a-z0-9-]+)\./
      private_constant :NAMED

      module_function

      # @param prefix [String]
      # @return [String] a new one, for the workspace that this thread works in
      def make(prefix)
        place = Workspaces.current
        "#{prefix}#{"#{place.name}." unless place.first?}#{SecureRandom.urlsafe_base64(32)}"
      end

      # @param key [String]
      # @return [String] by which somebody knows it again, without the rest of it
      def hint(key) = "#{key[0, 3]}#{key[NAMED] ? key.partition(".").last[0, 4] : key[3, 4]}…"

      # @param key [String, nil]
      # @return [String] name of a workspace, which need not be there
      def workspace(key) = key.to_s[NAMED, 1] || FIRST
    end
  end
end
