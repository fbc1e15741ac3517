"""What practice tells of a player: days behind and ahead, rates learned from passes, hands measured; and a player who is not there."""
