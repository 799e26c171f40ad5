# frozen_string_literal: true

require "digest"
require "fileutils"

# Where the data of checks lie: in memory where there is room.
module Scratch
  ROOT = File.expand_path("../../..", __dir__)
  # Bytes that have to be free.
  ROOM = 6 << 30
  MEMORY = "/dev/shm"
  private_constant :ROOT, :ROOM, :MEMORY

  # @param name [String]
  # @return [String] a directory of this working tree
  def self.place(name)
    free = File.directory?(MEMORY) ? IO.popen(["df", "--output=avail", "-B1", MEMORY], &:read)[/\d+/].to_i : 0
    return File.join(ROOT, "var", name) if free < ROOM

    File.join(MEMORY, "estrel-#{Digest::SHA256.hexdigest(ROOT)[0, 12]}", name)
  end

  # Has a directory made by the block, unless it is there already and made by the same code. One process at a time.
  #
  # @param directory [String]
  # @param sources [Array<String>] the directories of that code
  # @yieldreturn [void] once it is made
  # @return [void]
  def self.made(directory, sources)
    stamp = File.join(directory, "made-by")
    code = sources.flat_map { |name| Dir[File.join(ROOT, name, "**/*.*")] }.select { |path| File.file?(path) }.sort
    digest = Digest::SHA256.hexdigest(code.map { |path| Digest::SHA256.file(path).hexdigest }.join)
    FileUtils.mkdir_p(File.dirname(directory))
    File.open("#{directory}.lock", "w") do |lock|
      lock.flock(File::LOCK_EX)
      next if File.file?(stamp) && File.read(stamp) == digest

      FileUtils.rm_rf(directory)
      yield
      File.write(stamp, digest, perm: 0o600)
    end
  end
end
