# frozen_string_literal: true

# A machine that answers parts and has the database, beside the one that the specs are.
class OtherMachine
  # Settings of this machine and of the other.
  attr_reader :here, :there
  attr_reader :network

  # @param held [String] the pieces it holds, of two
  def initialize(held)
    @nats = NatsServer.new
    @front = DatabaseFront.new
    @place = Dir.mktmpdir
    common = { "ESTREL_NATS_URL" => @nats.url, "ESTREL_SECRETS_KEY" => "of all machines", "ESTREL_PARTS" => "2", "ESTREL_PARTS_FROM_EVENTS" => "0", "ESTREL_ANSWERING_PROCESSES" => "1" }
    @away = common.merge("ESTREL_VAR" => @place, "ESTREL_DATABASE_URL" => @front.url, "ESTREL_PARTS_HELD" => held)
    @here, @there = [common, @away].map { |given| EstrelServer::Settings.from(ENV.to_h.merge(given)) }
    @network = EstrelServer::Parts::Network.new(here)
  end

  # What follows the ledger there, and lends.
  def start
    @pid = Process.spawn(@away, File.join(ROOT, "bin/estrel"), "ledger", "mirror", err: File::NULL)
    wait { network.client && EstrelServer::Parts::Borrowed.send(:offers, network, here).any? }
  end

  def stop
    signal("KILL")
    Process.wait(@pid)
    network.close
    @front.stop
    @nats.stop
    FileUtils.rm_rf(@place)
  end

  def signal(name) = Process.kill(name, @pid)

  # Waits until it has taken the ledger from here.
  def take(ledger)
    publisher = EstrelServer::Parts::Publisher.new(network, here)
    publisher.publish { wait { Estrel::Ledger.new(there.ledger_directory).current_manifest_or_nil == ledger.current_manifest_or_nil } }
  end

  # Paths of what it has written for another machine.
  def aside = Dir.glob(File.join(there.written_directory, "*"))

  private

  def wait
    600.times { yield ? return : sleep(0.05) }
    raise "it did not come"
  end
end
