# frozen_string_literal: true

require "rotp"
require "rqrcode_core"

module EstrelServer
  module Access
    # What somebody shows besides a password: a code that an application on their phone makes of a secret and the time
    # (RFC 6238), each of which is good once; or, where the phone is gone, one of ten codes they have kept.
    class SecondFactor
      ISSUER = "Estrel"
      # How far the clocks may be apart, seconds.
      DRIFT = 30
      RECOVERY_CODES = 10
      # Who has to have one.
      POLICIES = %w[off administrators everybody].freeze
      WRONG = "the code is wrong or already used; enter the current one"
      private_constant :ISSUER, :DRIFT, :RECOVERY_CODES, :WRONG

      # @param account [Account]
      # @param policy [String] of {POLICIES}
      def initialize(account, policy = EstrelServer.settings.second_factor)
        @account = account
        @policy = policy
      end

      # @return [Boolean]
      def on? = !@account.second_factor_at.nil?

      # @return [Boolean] whether this account has to have one and has none yet
      def missing?
        return false if on?

        @policy == "everybody" || (@policy == "administrators" && @account.administers?)
      end

      # @return [String] "on", "off" or "missing"
      def state
        return "on" if on?

        missing? ? "missing" : "off"
      end

      # Makes a secret, which is of no use until it has been confirmed.
      #
      # @return [Hash{Symbol => String}] `secret` to type in, and `picture`, an SVG of the code to scan
      # @raise [Error] where there is one already
      def propose
        raise Error, "two-factor authentication is already on; turn it off first" if on?

        secret = ROTP::Base32.random
        @account.update!(totp_secret: secret)
        { secret: secret.scan(/.{1,4}/).join(" "), picture: picture(totp.provisioning_uri(@account.email)) }
      end

      # Begins to ask for it, and ends all sessions.
      #
      # @param code [String] that the application shows
      # @return [Array<String>] codes to keep, shown this once
      # @raise [Error]
      def confirm(code)
        @account.with_lock do
          raise Error, "there is a second factor already" if on?
          raise Error, "start the set-up again" if @account.totp_secret.nil?

          at = step(code) or raise Error, WRONG
          codes = Array.new(RECOVERY_CODES) { SecureRandom.alphanumeric(10, chars: [*"a".."z", *"2".."9"]) }
          @account.update!(second_factor_at: Time.now.utc, totp_used_at: at,
                           recovery_digests: codes.map { |one| SendingKey.digest(one) })
          @account.account_sessions.delete_all
          codes.map { |one| one.scan(/.{5}/).join("-") }
        end
      end

      # Uses a code up.
      #
      # @param code [String, nil]
      # @return [Boolean] whether it is right
      def passes?(code)
        @account.with_lock do
          at = step(code)
          next @account.update!(totp_used_at: at) if at

          digest = SendingKey.digest(code.to_s.downcase.gsub(/[^a-z0-9]/, ""))
          left = @account.recovery_digests || []
          left.include?(digest) && @account.update!(recovery_digests: left - [digest])
        end
      end

      # @return [void]
      def remove
        # Without reading what may have been encrypted under another key.
        @account.update_columns(totp_secret: nil, second_factor_at: nil, totp_used_at: nil, recovery_digests: nil)
      end

      # @return [Integer] how many of the codes that were kept have not been used
      def codes_left = (@account.recovery_digests || []).size

      private

      def totp = ROTP::TOTP.new(@account.totp_secret, issuer: ISSUER)

      # The time of the code; nil where it is none, or one that has been used. What was encrypted under another key is
      # no secret any more.
      def step(code)
        digits = code.to_s.gsub(/\s/, "")
        return unless /\A\d{6}\z/.match?(digits) && @account.totp_secret

        totp.verify(digits, drift_behind: DRIFT, drift_ahead: DRIFT, after: @account.totp_used_at)
      rescue ActiveRecord::Encryption::Errors::Base
        nil
      end

      # Dark squares on white, with the margin that cameras need.
      def picture(text)
        rows = RQRCodeCore::QRCode.new(text, level: :m).modules
        size = rows.size + 8
        squares = rows.each_with_index.flat_map do |row, y|
          row.each_index.filter_map { |x| "M#{x + 4} #{y + 4}h1v1h-1z" if row[x] }
        end
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 #{size} #{size}\" shape-rendering=\"crispEdges\">" \
          "<rect width=\"#{size}\" height=\"#{size}\" fill=\"#fff\"/><path d=\"#{squares.join}\"/></svg>"
      end
    end
  end
end
