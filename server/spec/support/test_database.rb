# frozen_string_literal: true

# The database of the specs, careless about crashes. What is about durability has a database with the settings of
# production, see {CrashStack}.
class TestDatabase < EstrelServer::Database
  CARELESS = %w[--innodb-flush-log-at-trx-commit=0 --innodb-flush-method=nosync --innodb-doublewrite=0 --innodb-log-file-size=64M].freeze
  private_constant :CARELESS

  private

  def command = [*super, *CARELESS]
end
