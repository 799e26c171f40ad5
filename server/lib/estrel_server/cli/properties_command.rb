# frozen_string_literal: true

require "thor"

module EstrelServer
  module CLI
    # The properties of old events on the command line, see {PropertyBlock}.
    class PropertiesCommand < Thor
      include Connecting

      namespace "properties"
      def self.exit_on_failure? = true

      desc "pack", "compress the properties of old events"
      method_option :days, type: :numeric, desc: "of events that came so long ago; ESTREL_PACK_AFTER_DAYS if not given"
      def pack
        connected do
          days = options[:days] || checked_settings.pack_after_days.nonzero?
          raise Error, "give a minimum age: --days 90, or ESTREL_PACK_AFTER_DAYS" unless days
          raise Error, "--days cannot be negative" if days.negative?

          before = Time.now.utc - (days * 86_400)
          told("packed") { |packing| packing.step(before) }
        end
      end

      desc "unpack", "decompress them, before downgrading"
      def unpack
        connected do
          if checked_settings.pack_after_days.positive?
            raise Error, "set ESTREL_PACK_AFTER_DAYS to 0 first, or they are packed again"
          end

          told("unpacked", &:undo)
        end
      end

      no_commands do
        def told(done)
          packing = Workers::PropertyPacking.new
          all = 0
          until (count = yield(packing)).zero?
            all += count
            say("#{Estrel::English.number(all)} …") if $stdout.tty?
          end
          say "the properties of #{Estrel::English.counted(all, "event")} are #{done}"
        end
      end
    end
  end
end
