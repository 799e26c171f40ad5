# frozen_string_literal: true

require "digest"

# The database of the specs: in memory where there is room, and careless about crashes. What is about durability has a
# database with the settings of production, see {CrashStack}.
class TestDatabase < EstrelServer::Database
  CARELESS = %w[--innodb-flush-log-at-trx-commit=0 --innodb-flush-method=nosync --innodb-doublewrite=0 --innodb-log-file-size=64M].freeze
  # Bytes that have to be free.
  ROOM = 6 << 30
  MEMORY = "/dev/shm"
  private_constant :CARELESS, :ROOM, :MEMORY

  # @param name [String] of the suite
  # @return [String] where its data lies
  def self.place(name)
    free = File.directory?(MEMORY) ? IO.popen(["df", "--output=avail", "-B1", MEMORY], &:read)[/\d+/].to_i : 0
    return File.join(ROOT, "var", name) if free < ROOM

    File.join(MEMORY, "estrel-#{Digest::SHA256.hexdigest(ROOT)[0, 12]}", name)
  end

  private

  def command = [*super, *CARELESS]
end
