# frozen_string_literal: true

require "openssl"

# A certificate for names of this machine's own, made for the occasion, with its key.
class Certificate
  attr_reader :itself

  def initialize(*names)
    @key = OpenSSL::PKey::RSA.new(2048)
    @itself = OpenSSL::X509::Certificate.new
    @itself.version = 2
    @itself.serial = 1
    @itself.subject = @itself.issuer = OpenSSL::X509::Name.parse("/CN=#{names.first}")
    @itself.public_key = @key.public_key
    @itself.not_before = Time.now - 60
    @itself.not_after = Time.now + 3600
    extend_to(names)
    @itself.sign(@key, OpenSSL::Digest.new("SHA256"))
  end

  def write(certificate, key)
    File.write(certificate, @itself.to_pem)
    File.write(key, @key.to_pem)
  end

  private

  def extend_to(names)
    extensions = OpenSSL::X509::ExtensionFactory.new(@itself, @itself)
    @itself.add_extension(extensions.create_extension("subjectAltName", names.map { |name| "DNS:#{name}" }.join(",")))
    @itself.add_extension(extensions.create_extension("basicConstraints", "CA:TRUE", true))
  end
end
